// The `nimble` command as one file, so that a test which calls it twenty times does not read its sources twenty times.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';

export interface BundledCommand {
  readonly file: string;
  remove(): void;
}

/** Bundles cli/main.ts below node_modules, where packages are still found. */
export async function bundleCommand(): Promise<BundledCommand> {
  const caches = join('node_modules', '.cache');
  mkdirSync(caches, { recursive: true });
  const folder = mkdtempSync(join(caches, 'nimble-'));
  const file = join(folder, 'nimble.mjs');
  await build({ entryPoints: ['cli/main.ts'], bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: join(folder, 'main.mjs') });
  writeFileSync(file, "import { main } from './main.mjs';\nprocess.exitCode = await main(process.argv.slice(2));\n");
  return { file, remove: () => rmSync(folder, { recursive: true }) };
}
