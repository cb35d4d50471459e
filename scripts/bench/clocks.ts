// What several clocks cost: two oscillators, and clocks that logic makes, against one clock with as many registers.
import { elaborate } from '../../core/hdl/index.ts';
import { madeBoard } from '../../tests/support/made-board.ts';
import { optimise } from '../../core/netlist/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';

const EDGES = 3_000_000;
const WARM = 1_500_000;
const PARTS = 5;
/** As much as a board does at once. */
const BATCH = 10_000;

const WORDS = Array.from({ length: 16 }, (_, i) => i);

/** Some work at each edge: a row of words that are mixed, so that they never come to rest. */
const machine = (name: string, clock: string, when = '1'): string =>
  `${WORDS.map((i) => `reg [31:0] ${name}${i} = ${i};`).join(' ')} always @(posedge ${clock}) if (${when}) begin ` +
  `${WORDS.map((i) => {
    const next = `${name}${(i + 1) % WORDS.length}`;
    return `${name}${i} <= (${next} ^ (${name}${i} >> 7)) * 5 + ${name}${i} + ${i + 1};`;
  }).join(' ')} end`;

function simulator(body: string): Simulator {
  const text = `module m(input a, b, output [31:0] x, y); ${body} assign x = p0; assign y = q0; endmodule`;
  const { netlist } = elaborate([{ name: 't.v', text }], { top: 'm' });
  if (!netlist) throw new Error('the design does not elaborate');
  return new Simulator(optimise(netlist).netlist);
}

function seconds(run: (edges: number) => void): number {
  for (let i = 0; i < WARM; i += BATCH) run(BATCH);
  // A machine that others use too is slow now and then: the best part counts.
  const parts = Array.from({ length: PARTS }, () => {
    const start = performance.now();
    for (let i = 0; i < EDGES / PARTS; i += BATCH) run(BATCH);
    return (performance.now() - start) / 1000;
  });
  return Math.min(...parts) * PARTS;
}

/** Nanoseconds an edge. */
interface Costs {
  /** Of one clock with all registers, and of two with half of them each. */
  readonly one: number;
  readonly two: number;
  /** Of one clock with half of the registers at every 64th edge: by an enable, and by a clock that a divider makes. */
  readonly enabled: number;
  readonly derived: number;
}

const MADE_MICROSECONDS = 60_000;

/** Nanoseconds of wall time for a microsecond of a board on which a design runs from one oscillator. */
async function onBoard(body: string, hz: number, other = 0): Promise<number> {
  const text = `module m(input a, b, output o); ${body} assign o = p0[0] ^ q0[0]; endmodule`;
  const { bench, load } = madeBoard({
    ...{ top: 'm', files: [{ name: 'm.v', text }] },
    ...(other > 0 ? { clocks: { a: hz, b: other } } : { clocks: { a: hz }, pins: 'b,B1\n' }),
  });
  await load();
  bench.advance(MADE_MICROSECONDS / 2);
  const start = performance.now();
  bench.advance(MADE_MICROSECONDS);
  return ((performance.now() - start) * 1e6) / MADE_MICROSECONDS;
}

/**
 * Registers on 48 MHz that a generator makes of 12 MHz, and as many on the 12 MHz, against an oscillator of 48 MHz with
 * the latter at every fourth edge: as many registers move.
 */
export async function madeClockCosts(): Promise<{ readonly made: number; readonly plain: number }> {
  const generator = 'corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8)) g (.clock_in(a), .clock_a(f));';
  const made = await onBoard(`wire f; ${generator} ${machine('p', 'f')} ${machine('q', 'a')}`, 12e6);
  const count = 'reg [1:0] t = 0; always @(posedge a) t <= t + 1;';
  const plain = await onBoard(`${count} ${machine('p', 'a')} ${machine('q', 'a', 't == 3')}`, 48e6);
  return { made, plain };
}

/** The same registers, and as many on another oscillator of 10 MHz beside both. */
export async function madeBesideCosts(): Promise<{ readonly made: number; readonly plain: number }> {
  const generator = 'corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8)) g (.clock_in(a), .clock_a(f));';
  const made = await onBoard(`wire f; ${generator} ${machine('p', 'f')} ${machine('q', 'b')}`, 12e6, 10e6);
  const plain = await onBoard(`${machine('p', 'a')} ${machine('q', 'b')}`, 48e6, 10e6);
  return { made, plain };
}

export function clockCosts(): Costs {
  const single = simulator(`${machine('p', 'a')} ${machine('q', 'a')}`);
  const one = seconds((edges) => single.step(single.domain('a'), edges));
  const pair = simulator(`${machine('p', 'a')} ${machine('q', 'b')}`);
  // As many edges of each, so that as many registers move.
  const two = seconds((edges) =>
    pair.interleave(
      { domain: pair.domain('a'), count: edges, next: 1, step: 1 },
      { domain: pair.domain('b'), count: edges, next: 1.5, step: 1 },
    ),
  );
  const count = 'reg [5:0] t = 0; always @(posedge a) t <= t + 1;';
  const held = simulator(`${machine('p', 'a')} ${count} ${machine('q', 'a', 't == 31')}`);
  const enabled = seconds((edges) => held.step(held.domain('a'), edges));
  const divided = simulator(`${machine('p', 'a')} ${count} wire slow = t[5]; ${machine('q', 'slow')}`);
  const derived = seconds((edges) => divided.step(divided.domain('a'), edges));
  const nanoseconds = (time: number) => (time * 1e9) / EDGES;
  return {
    ...{ one: nanoseconds(one), two: nanoseconds(two) },
    ...{ enabled: nanoseconds(enabled), derived: nanoseconds(derived) },
  };
}
