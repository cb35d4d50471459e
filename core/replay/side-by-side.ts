// What a simulation of the testbench made of each signal, laid beside what the hardware did.
import { floatAt, wordAt } from '../lists.ts';
import { indexAt, type Trace, TraceWriter } from '../wave/index.ts';
import type { Replay } from './replay.ts';
import { SAMPLE_NANOSECONDS } from './testbench-text.ts';

/** Where hardware and simulation are both known, and are not the same. */
export interface HardwareOnly {
  readonly signal: string;
  readonly sample: number;
  readonly tick: number;
  /** In how many samples. */
  readonly samples: number;
}

interface SideBySide {
  /** Of the simulation, on the axis of the record, under the names of the design with `simulation: ` before them. */
  readonly traces: readonly Trace[];
  /** The first of each signal, earliest first. */
  readonly differences: readonly HardwareOnly[];
}

/**
 * Lays the dump of a run of the testbench of `path` beside its record. `dumped` has ticks of `tickSeconds`; its names
 * are those of the testbench.
 */
export function sideBySide(
  { recording, prepared: { moments } }: Replay,
  path: string,
  testbench: string,
  dumped: readonly Trace[],
  tickSeconds: number,
): SideBySide {
  const hardware = new Map(recording.traces.map((trace) => [trace.name, trace]));
  const before = `${testbench}.dut.`;
  const traces: Trace[] = [];
  const differences: HardwareOnly[] = [];
  for (const trace of dumped) {
    if (!trace.name.startsWith(before)) continue;
    const name = `${path}.${trace.name.slice(before.length)}`;
    const beside = hardware.get(name);
    if (!beside || beside.width !== trace.width) continue;
    const writer = new TraceWriter(trace.width);
    let found: Omit<HardwareOnly, 'samples'> | null = null;
    let samples = 0;
    for (let i = 0; i < moments.count; i++) {
      const tick = floatAt(moments.ticks, i);
      // Just before the next edge, when all has settled.
      const at = indexAt(trace, Math.round(((i + 1) * SAMPLE_NANOSECONDS - 1) / (tickSeconds * 1e9)));
      const word = (of: Uint32Array) => of.subarray(Math.max(0, at) * trace.words, (Math.max(0, at) + 1) * trace.words);
      if (at >= 0) writer.add(tick, word(trace.bits), trace.unknown ? word(trace.unknown) : null);
      if (at < 0 || !differ(trace, at, beside, indexAt(beside, tick))) continue;
      samples++;
      found ??= { signal: name, sample: i, tick };
    }
    if (found) differences.push({ ...found, samples });
    const { signed, domain, names } = beside;
    traces.push(
      writer.finish({ name: `simulation: ${name}`, width: trace.width, signed, domain, ...(names ? { names } : {}) }),
    );
  }
  return { traces, differences: differences.sort((a, b) => a.sample - b.sample) };
}

/** In a bit that both know. */
function differ(a: Trace, i: number, b: Trace, j: number): boolean {
  if (j < 0) return false;
  for (let k = 0; k < a.words; k++) {
    const open = (a.unknown?.[i * a.words + k] ?? 0) | (b.unknown?.[j * b.words + k] ?? 0);
    if (((wordAt(a.bits, i * a.words + k) ^ wordAt(b.bits, j * b.words + k)) & ~open) !== 0) return true;
  }
  return false;
}
