// A process that tries inputs: what kills it kills no more than itself, and where it was stands in a file.
import { openSync, writeSync } from 'node:fs';
import { READERS } from './readers.ts';
import { type Fell, tryOne } from './try-one.ts';

export interface Batch {
  readonly reader: string;
  readonly seed: number;
  readonly from: number;
  readonly to: number;
}

export interface Done {
  readonly tried: number;
  readonly fell: readonly Fell[];
}

const [, , mark = ''] = process.argv;
const file = openSync(mark, 'w');

process.on('message', ({ reader: name, seed, from, to }: Batch) => {
  const reader = READERS.find((one) => one.name === name);
  if (!reader) throw new Error(`there is no reader ${name}`);
  const fell: Fell[] = [];
  for (let index = from; index < to; index++) {
    writeSync(file, String(index).padEnd(12), 0);
    const found = tryOne(reader, seed, index);
    if (found) fell.push(found);
  }
  const done: Done = { tried: to - from, fell };
  process.send?.(done);
});
process.send?.({ tried: 0, fell: [] } satisfies Done);
