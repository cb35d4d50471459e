// The `nimble` command as one file, so that a test which calls it twenty times does not read its sources twenty times.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { afterAll, beforeAll } from 'vitest';

interface BundledCommand {
  readonly file: string;
  remove(): void;
}

/** Bundles cli/main.ts below node_modules, where packages are still found. */
async function bundleCommand(): Promise<BundledCommand> {
  const caches = join('node_modules', '.cache');
  mkdirSync(caches, { recursive: true });
  const folder = mkdtempSync(join(caches, 'nimble-'));
  const file = join(folder, 'nimble.mjs');
  await build({
    entryPoints: ['cli/main.ts'],
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    outfile: join(folder, 'main.mjs'),
  });
  writeFileSync(file, "import { main } from './main.mjs';\nprocess.exitCode = await main(process.argv.slice(2));\n");
  return { file, remove: () => rmSync(folder, { recursive: true }) };
}

/** The command and a folder for a file of tests. `run` gives what it wrote as it is, `nimble` its JSON document. */
export function nimbleCommand() {
  let folder: string;
  let command: BundledCommand;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'nimble-cli-'));
    command = await bundleCommand();
  });
  afterAll(() => {
    rmSync(folder, { recursive: true });
    command?.remove();
  });
  const run = (...args: string[]) => spawnSync(process.execPath, [command.file, ...args], { encoding: 'utf8' });
  return {
    at: (name: string) => join(folder, name),
    file: () => command.file,
    run,
    nimble: (...args: string[]): { status: number | null; json: Record<string, unknown>; stderr: string } => {
      const { status, stdout, stderr } = run(...args);
      return { status, json: stdout.trim() === '' ? {} : (JSON.parse(stdout) as Record<string, unknown>), stderr };
    },
  };
}
