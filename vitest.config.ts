import { defineConfig } from 'vitest/config';

// Test files of a worker share its modules: reading them anew for each file takes as long as a third of the tests.
export default defineConfig({
  test: {
    include: ['{core,bench,pod,server,cli,ui}/**/*.test.ts', 'tests/unit/**/*.test.ts'],
    testTimeout: 120_000,
    maxWorkers: 2,
    isolate: false,
  },
});
