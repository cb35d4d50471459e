// A record as a testbench: an instance by itself, fed what came in, its outputs compared with what went out.
import { floatAt, item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import type { Memory } from '../netlist/index.ts';
import { indexAt, type Trace } from '../wave/index.ts';
import { CONSTANT } from './bit-graph.ts';
import type { NamedSignal } from './design.ts';
import type { Fill } from './exact.ts';
import { type Ports, portsOf } from './instance-ports.ts';
import { problem } from './problems.ts';
import type { Replay } from './replay.ts';
import { type Alone, testbenchText } from './testbench-text.ts';

/** What fills bits that nobody knows. */
export type TestbenchFill = 'x' | Fill;

export interface Testbench {
  /** Its module. */
  readonly name: string;
  /** Verilog, and the data it reads. */
  readonly files: readonly { readonly name: string; readonly text: string }[];
  readonly samples: number;
  /** Outputs that are compared, with in how many samples some of their bits are. */
  readonly compared: readonly { readonly port: string; readonly samples: number }[];
}

/**
 * Makes the testbench of an instance of a region that was replayed. Inputs come as they were recorded or computed;
 * registers begin with what is known of them, at the start and behind every gap. Of an output those bits are compared
 * that follow from the inputs and from what is known of the registers.
 */
export function testbenchOf(replay: Replay, path: string, alone: Alone, fill: TestbenchFill): Result<Testbench> {
  const ports = portsOf(replay, path);
  if (ports.inputs.length + ports.outputs.length === 0) return fail(problem('no-instance', { path }));
  const data = new Columns(replay, fill);
  if (ports.inputs.length > 0 && ports.inputs.every(({ signal }) => data.traceOf(signal) === null))
    return fail(problem('no-inputs-known', { path }));
  const { moments } = replay.prepared;
  const stretches = stretchesOf(replay, path, fill);
  const state = stateOf(replay, path);
  const memories = memoriesOf(replay, path);
  const { input, output, compared } = played(replay, ports, data, stretches);
  const starts = stretches.map(({ moment }) => state.map((signal) => data.valueAt(signal, moment)).join(''));
  const name = `replay_${alone.module}`;
  const text = testbenchText({
    name,
    alone,
    title: replay.recording.title,
    samples: moments.count,
    isSampled: replay.prepared.clocks.every(({ falls }) => !falls),
    clocks: ports.clocks.map(({ name: port }) => port),
    idle: ports.idle.map(({ name: port }) => port),
    inputs: ports.inputs.map(({ name: port, signal }) => ({ name: port, width: signal.width })),
    outputs: ports.outputs.map(({ name: port, signal }) => ({ name: port, width: signal.width })),
    state: state.map((signal) => ({ name: signal.name.slice(path.length + 1), width: signal.width })),
    starts: starts.length,
    breaks: moments.breaks.length,
    memories: memories.map(({ memory }) => ({
      name: memory.name.slice(path.length + 1),
      width: memory.width,
      depth: memory.depth,
      ranges: memory.ranges ?? [{ lowest: 0, size: memory.depth }],
    })),
  });
  const file = (ending: string, lines: readonly string[]) => ({
    name: `${name}.${ending}`,
    text: `${lines.join('\n')}\n`,
  });
  return ok({
    name,
    files: [
      { name: `${name}.v`, text },
      file('in.mem', input),
      file('out.mem', ports.outputs.length === 0 ? output.map(() => 'x') : output),
      ...(state.length > 0 ? [file('start.mem', starts)] : []),
      ...memories.map(({ memory, place }, i) =>
        file(
          `m${i}.mem`,
          moments.breaks.flatMap((moment) => data.words(place, memory, moment)),
        ),
      ),
    ],
    samples: moments.count,
    compared: ports.outputs.map(({ name: port }, i) => ({ port, samples: item(compared, i) })),
  });
}

/** A word a sample of what comes in and of what is expected, as digits. */
function played(
  { prepared: { moments } }: Replay,
  ports: Ports,
  data: Columns,
  stretches: readonly Stretch[],
): { readonly input: string[]; readonly output: string[]; readonly compared: number[] } {
  const begins = new Map(stretches.map(({ moment, isAnew }) => [moment, isAnew]));
  const input: string[] = [];
  const output: string[] = [];
  const compared = ports.outputs.map(() => 0);
  let place = 0;
  for (let i = 0; i < moments.count; i++) {
    const edges = moments.edges[moments.edgesBefore[i] ?? -1] ?? [];
    // Each clock has two bits: whether it changes, and to what.
    const clocks = ports.clocks.map(({ known }) => {
      const edge = edges.find(({ clock }) => clock === known);
      return edge ? `1${edge.edge === 'posedge' ? 1 : 0}` : '00';
    });
    const isAnew = begins.get(i);
    const flags = `${isAnew === undefined ? 0 : 1}${isAnew ? 1 : 0}`;
    input.push([flags, ...clocks, ...ports.inputs.map(({ signal }) => data.valueAt(signal, i))].join(''));
    while (place < stretches.length - 1 && i >= item(stretches, place).end) place++;
    const { moment, end } = item(stretches, place);
    const expected = ports.outputs.map(({ signal }, o) => {
      const text = moment <= i && i < end ? data.expected(signal, i) : 'x'.repeat(signal.width);
      if (/[01]/.test(text)) compared[o] = (compared[o] ?? 0) + 1;
      return text;
    });
    output.push(expected.join(''));
  }
  return { input, output, compared };
}

/** Moments that are compared, one after another from the first; `isAnew`: nothing of before counts, memories neither. */
interface Stretch {
  readonly moment: number;
  readonly end: number;
  readonly isAnew: boolean;
}

/**
 * Between gaps; where x stays x, or nobody knows what to fill in so that the record comes, the parts in which all of
 * the instance is known. What a simulator makes of x is not what follows from it: a condition that is x counts as false
 * (IEEE 1364-2005, clause 9.4).
 */
function stretchesOf(replay: Replay, path: string, fill: TestbenchFill): Stretch[] {
  const { moments } = replay.prepared;
  const between = moments.breaks.map(
    (moment, i): Stretch => ({ moment, end: moments.breaks[i + 1] ?? moments.count, isAnew: true }),
  );
  const { beginnings } = replay.detail;
  const isFilled = (at: number) => fill !== 'x' && beginnings.some(({ moment, explains }) => moment === at && explains);
  const traces = replay.recording.traces.filter(({ name, unknown }) => unknown !== null && name.startsWith(`${path}.`));
  const isOpen = (i: number) => traces.some((trace) => isOpenAt(trace, floatAt(moments.ticks, i)));
  return between.flatMap(({ moment, end, isAnew }) => {
    if (isFilled(moment)) return [{ moment, end, isAnew }];
    const parts: Stretch[] = [];
    let from = -1;
    for (let i = moment; i <= end; i++) {
      const ends = i === end || isOpen(i);
      if (!ends && from < 0) from = i;
      if (!ends || from < 0) continue;
      parts.push({ moment: from, end: i, isAnew: from === moment });
      from = -1;
    }
    return parts[0]?.moment === moment ? parts : [{ moment, end: moment, isAnew: true }, ...parts];
  });
}

function isOpenAt(trace: Trace, tick: number): boolean {
  const index = indexAt(trace, tick);
  if (index < 0) return true;
  for (let k = 0; k < trace.words; k++) if ((trace.unknown?.[index * trace.words + k] ?? 0) !== 0) return true;
  return false;
}

/** Variables of the instance that are registers through and through. */
function stateOf({ prepared: { region } }: Replay, path: string): NamedSignal[] {
  const { design, graph } = region;
  return design.signals.filter(
    ({ name, variable, node }) =>
      name.startsWith(`${path}.`) &&
      variable === true &&
      graph.bitsOf(node).some((vertex) => vertex !== CONSTANT) &&
      graph.bitsOf(node).every((vertex) => vertex === CONSTANT || graph.registerOf(vertex) !== null),
  );
}

/** Memories of the instance that the design writes, with their places in the netlist that was computed. */
function memoriesOf({ prepared: { program } }: Replay, path: string): { memory: Memory; place: number }[] {
  return program.netlist.memories.flatMap((memory, place) =>
    memory.writes.length > 0 && memory.name.startsWith(`${path}.`) ? [{ memory, place }] : [],
  );
}

/** Values of signals at ticks, as digits of a memory file. */
class Columns {
  readonly #replay: Replay;
  readonly #fill: TestbenchFill;
  readonly #traces: ReadonlyMap<string, Trace>;
  readonly #own: ReadonlyMap<string, Trace | null>;
  readonly #computed: ReadonlyMap<string, string>;
  readonly #made = new Map<number, (output: string, moment: number) => bigint>();

  constructor(replay: Replay, fill: TestbenchFill) {
    this.#replay = replay;
    this.#fill = fill;
    this.#traces = new Map(replay.recording.traces.map((trace) => [trace.name, trace]));
    const { recorded, program } = replay.prepared;
    this.#own = new Map(
      recorded.flatMap(({ signal, width }, i) =>
        width === signal.width ? [[signal.name, replay.detail.own[i] ?? null] as const] : [],
      ),
    );
    this.#computed = new Map(program.shown.map(({ signal, output }) => [signal.name, output]));
  }

  traceOf({ name }: NamedSignal): Trace | null {
    return this.#traces.get(name) ?? null;
  }

  /** What comes in, or stands in a register, at a moment. */
  valueAt(signal: NamedSignal, moment: number): string {
    const trace = this.traceOf(signal);
    const tick = floatAt(this.#replay.prepared.moments.ticks, moment);
    const text = trace ? digitsAt(trace, tick) : 'x'.repeat(signal.width);
    const fill = this.#fill;
    if (fill === 'x' || !text.includes('x')) return text;
    const from = this.#replay.detail.beginnings.find(
      (one) => one.moment <= moment && moment < one.moment + one.exact.count,
    );
    const output = this.#computed.get(signal.name);
    if (!from || output === undefined) return text.replaceAll('x', filler(fill));
    return this.#filled(from, fill)(output, moment - from.moment)
      .toString(2)
      .padStart(signal.width, '0');
  }

  #filled(from: Replay['detail']['beginnings'][number], fill: Fill): (output: string, moment: number) => bigint {
    const known = this.#made.get(from.moment);
    if (known) return known;
    const made = from.exact.filled(fill);
    this.#made.set(from.moment, made);
    return made;
  }

  /** x where nothing is compared. */
  expected(signal: NamedSignal, moment: number): string {
    const trace = this.traceOf(signal);
    const tick = floatAt(this.#replay.prepared.moments.ticks, moment);
    if (!trace) return 'x'.repeat(signal.width);
    const text = digitsAt(trace, tick);
    const own = this.#own.get(signal.name);
    if (own === undefined) return text;
    if (own === null) return 'x'.repeat(signal.width);
    const known = digitsAt(own, tick);
    return [...text].map((digit, i) => (known[i] === 'x' ? 'x' : digit)).join('');
  }

  /** All words of a memory where a stretch begins. */
  words(place: number, { width, depth }: Memory, moment: number): string[] {
    const exact = this.#replay.detail.beginnings.find((one) => one.moment === moment)?.exact;
    const of = exact?.startWord(this.#fill);
    return Array.from({ length: depth }, (_, word) => {
      const known = of?.(place, word);
      if (!known) return filler(this.#fill).repeat(width);
      let text = '';
      for (let bit = BigInt(width - 1); bit >= 0n; bit--)
        text += (known.unknown >> bit) & 1n ? 'x' : String((known.value >> bit) & 1n);
      return text;
    });
  }
}

const filler = (fill: TestbenchFill): string => (fill === 'x' ? 'x' : fill === 'ones' ? '1' : '0');

function digitsAt(trace: Trace, tick: number): string {
  const index = indexAt(trace, tick);
  let text = '';
  for (let bit = trace.width - 1; bit >= 0; bit--) {
    const at = index * trace.words + (bit >>> 5);
    const isOpen = index < 0 || (((trace.unknown?.[at] ?? 0) >>> (bit & 31)) & 1) === 1;
    text += isOpen ? 'x' : String(((trace.bits[at] ?? 0) >>> (bit & 31)) & 1);
  }
  return text;
}
