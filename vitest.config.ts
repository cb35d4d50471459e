import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: { include: ['{core,bench,server,cli,ui}/**/*.test.ts', 'tests/unit/**/*.test.ts'], testTimeout: 120_000, maxWorkers: 2 },
});
