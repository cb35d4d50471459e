import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FlashContents } from './bench.ts';

const nameOf = (index: number): string => `flash-${index}.bin`;
const MOST_DEVICES = 200;

/**
 * What a board keeps without power, as files in a folder: the contents of each flash by its FPGA's place in the chain.
 */
export function readKept(folder: string): FlashContents {
  const kept = new Map<number, Uint8Array>();
  for (let index = 0; index < MOST_DEVICES; index++) {
    const path = join(folder, nameOf(index));
    if (existsSync(path)) kept.set(index, new Uint8Array(readFileSync(path)));
  }
  return kept;
}

/** Each file is replaced as a whole, so that a crash leaves the old or the new contents. */
export function writeKept(folder: string, contents: FlashContents): void {
  mkdirSync(folder, { recursive: true });
  for (const [index, bytes] of contents) {
    const path = join(folder, nameOf(index));
    writeFileSync(`${path}.new`, bytes);
    renameSync(`${path}.new`, path);
  }
}
