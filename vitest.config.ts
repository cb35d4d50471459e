import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const played = (file: string) => fileURLToPath(new URL(`tests/support/page/${file}`, import.meta.url));

// Test files of a worker share its modules: reading them anew for each file takes as long as a third of the tests.
export default defineConfig({
  // Components are tested by themselves, on a page that is played.
  resolve: { alias: { 'next/navigation': played('navigation.ts'), 'next/link': played('link.tsx') } },
  oxc: { jsx: { runtime: 'automatic' } },
  test: {
    include: ['{core,bench,pod,server,door,cli,ui}/**/*.test.{ts,tsx}', 'tests/unit/**/*.test.ts'],
    testTimeout: 120_000,
    maxWorkers: 2,
    isolate: false,
  },
});
