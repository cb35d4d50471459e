// `npm run bench`: bundled as the product is, so that what is measured is what is shipped (no loader between the lines).
import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const outfile = join(root, 'dist', `bench.${process.pid}.mjs`);
await build({
  absWorkingDir: root,
  entryPoints: ['scripts/bench/main.ts'],
  packages: 'external',
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  outfile,
  logLevel: 'warning',
});
try {
  const done = spawnSync(process.execPath, [outfile, ...process.argv.slice(2)], { cwd: root, stdio: 'inherit' });
  process.exitCode = done.status ?? 1;
} finally {
  rmSync(outfile, { force: true });
}
