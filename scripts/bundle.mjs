// The `nimble` command, the pod, the door and the threads in one folder, so that they start at once: `dist/nimble/`.
// Each command is a piece of its own, read only when it is called.
import { existsSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = join(root, 'dist', 'nimble');
const list = join(folder, 'sources.json');

/** Whether the bundle is younger than everything it was made from. */
export function isFresh() {
  if (!existsSync(list)) return false;
  const made = statSync(list).mtimeMs;
  try {
    return JSON.parse(readFileSync(list, 'utf8')).every((file) => statSync(join(root, file)).mtimeMs <= made);
  } catch {
    return false;
  }
}

export async function bundle() {
  const { build } = await import('esbuild');
  // Made beside the one that others may be starting from, then put in its place.
  const fresh = `${folder}.${process.pid}`;
  const { metafile } = await build({
    absWorkingDir: root,
    entryPoints: {
      main: 'cli/main.ts',
      pod: 'cli/pod.ts',
      firmware: 'cli/firmware.ts',
      web: 'cli/web.ts',
      design: 'server/threads/workers/design.ts',
      reading: 'server/threads/workers/reading.ts',
      simulation: 'server/threads/workers/simulation.ts',
    },
    // What brings a binary of its own is left where it is installed.
    external: ['next', 'serialport'],
    bundle: true,
    splitting: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    outdir: fresh,
    outExtension: { '.js': '.mjs' },
    // Packages that are CommonJS ask for Node's own modules by `require`.
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    metafile: true,
    logLevel: 'warning',
  });
  const own = Object.keys(metafile.inputs).filter((file) => !file.includes('node_modules'));
  writeFileSync(join(fresh, 'sources.json'), JSON.stringify(['package-lock.json', ...own]));
  const old = `${folder}.old.${process.pid}`;
  if (existsSync(folder)) renameSync(folder, old);
  renameSync(fresh, folder);
  rmSync(old, { recursive: true, force: true });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await bundle();
