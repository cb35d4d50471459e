import {
  createReadStream,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { appendFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { Shelved, StageShelf } from '../core/pod/index.ts';

const LIST = 'files.json';
const READ_BYTES = 1 << 18;

const shelved = z.array(z.object({ id: z.number().int(), name: z.string(), bytes: z.number(), sha256: z.string() }));

/**
 * Staged files on disk, of any size, kept over a start of the pod. What is in the folder and not in its list did not
 * arrive whole, and goes.
 */
export function diskShelf(folder: string): StageShelf {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const pathOf = (id: number) => join(folder, `${Math.trunc(id)}.staged`);
  const known = readList(join(folder, LIST)).filter(({ id }) => existsSync(pathOf(id)));
  const names = new Set(known.map(({ id }) => `${id}.staged`));
  for (const name of readdirSync(folder))
    if (name.endsWith('.staged') && !names.has(name)) rmSync(join(folder, name), { force: true });
  return {
    known: () => known,
    remember: (files) => {
      // Put in the place of the last one whole, so that a pod that dies meanwhile finds one of the two.
      const fresh = join(folder, `${LIST}.new`);
      writeFileSync(fresh, `${JSON.stringify(files)}\n`);
      renameSync(fresh, join(folder, LIST));
    },
    place: (id) => ({
      write: (piece) => appendFile(pathOf(id), piece),
      read: () => chunksOf(pathOf(id)),
      remove: () => rm(pathOf(id), { force: true }),
    }),
  };
}

async function* chunksOf(path: string): AsyncIterable<Uint8Array> {
  for await (const chunk of createReadStream(path, { highWaterMark: READ_BYTES })) yield new Uint8Array(chunk);
}

function readList(path: string): readonly Shelved[] {
  if (!existsSync(path)) return [];
  try {
    return shelved.parse(JSON.parse(readFileSync(path, 'utf8')));
  } catch {
    console.error(`${path} is not what this pod has written; what was staged is dropped.`);
    return [];
  }
}
