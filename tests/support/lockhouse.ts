// The demo's bench inside the test's own process.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Bench, BenchCable, readBenchFile } from '../../bench/index.ts';

export function lockhouse(kept?: ConstructorParameters<typeof Bench>[1]): { bench: Bench; cable: BenchCable } {
  const path = join('demo', 'benches', 'lockhouse.bench.json');
  const file = readBenchFile(readFileSync(path, 'utf8'), path);
  if (!file.ok) throw new Error(file.error.message);
  const bench = new Bench(file.value, kept);
  return { bench, cable: new BenchCable(bench) };
}
