import { defineConfig } from 'vitest/config';
export default defineConfig({ test: { include: ['try/**/*.test.ts'], testTimeout: 200000, hookTimeout: 100000 } });
