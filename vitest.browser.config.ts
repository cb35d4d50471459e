import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['tests/browser/**/*.test.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000,
    fileParallelism: false,
    // No test of a file may need another one: they come in an order that nobody chose, the same in each run.
    sequence: { concurrent: false, shuffle: { tests: true, files: false }, seed: 7 },
  },
});
