// The panel and the stepper as instruments, over JTAG and the whole bench: pulses to the cycle, what happened between
// two readings, and steps until something holds.
import fc from 'fast-check';
import { beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { chainOn } from '../tests/support/chain-on.ts';
import { build } from '../core/build/index.ts';
import { type Bitstream, readBitstream } from '../core/families/index.ts';
import { drive, loadBitstream, stepClock, type StepOrder } from '../core/operations/index.ts';
import type { ProbeMap } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

const PART = 'CV60';
/** Counts its clock's edges, and those at which it is let. */
const DESIGN = `module t(input clk, input en, output reg [15:0] n = 0, output reg [15:0] all = 0);
  always @(posedge clk) begin all <= all + 1; if (en) n <= n + 1; end
endmodule`;

const PLAN = {
  recorders: [],
  panels: [
    { name: 'p', clock: 't.clk', levers: ['t.en'], gauges: ['t.en', 't.n', 't.all'], pulse: true, activity: true },
  ],
  steppers: [{ name: 's', clock: 't.clk', held: true, signals: ['t.all', 't.n'], comparators: 2 }],
};

function built(): { readonly bitstream: Bitstream; readonly map: ProbeMap } {
  const { bitstream, probes, messages } = build({
    project: {
      file: {
        ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 't', top: 't', part: PART },
        ...{ pins: 'pins.csv', clocks: { clk: 12e6 } },
      },
      files: [
        { name: 't.v', text: DESIGN },
        { name: 'pins.csv', text: 'clk,A1\n' },
      ],
    },
    plan: PLAN,
  });
  const read = readBitstream(bitstream ?? new Uint8Array());
  if (!read.ok || !probes) throw new Error(JSON.stringify(messages));
  return { bitstream: read.value, map: probes };
}

const file = readBenchFile(
  JSON.stringify({
    chain: [{ kind: 'corvane', part: PART }],
    board: { fpga: 0, oscillators: [{ name: 'X', pin: 'A1', hz: 12e6 }] },
  }),
  'made',
);
if (!file.ok) throw new Error(file.error.message);
const bench = new Bench(file.value);
const chain = chainOn(new BenchCable(bench));
let made: ReturnType<typeof built>;

const on = () => ({ part: PART, device: null, map: made.map });
async function panel(set: Readonly<Record<string, bigint | null>> = {}, cycles?: number) {
  const driven = await drive(chain, { ...on(), set, cycles: cycles ?? null });
  if (!driven.ok) throw new Error(driven.error.message);
  return driven.value.reading;
}
async function order(what: StepOrder | null) {
  const state = await stepClock(chain, { ...on(), stepper: 's', order: what });
  if (!state.ok) throw new Error(state.error.message);
  return state.value;
}
/** Waits until nothing moves any more. */
async function rest() {
  for (let looks = 0; looks < 50; looks++) {
    bench.advance(2000);
    const state = await order(null);
    if (!state.stepping) return state;
  }
  throw new Error('it does not come to rest');
}

describe('instruments', () => {
  beforeAll(() => {
    made = built();
  });
  beforeEach(async () => {
    const load = await loadBitstream(chain, made.bitstream, null, unwatched);
    if (!load.ok || !load.value.done) throw new Error('it does not load');
  });

  test('a pulse of so many cycles is exactly that, and the lever is released behind it', async () => {
    await order({ way: 'run' });
    let sum = 0n;
    for (const cycles of [1, 2, 17, 1000, 65_535]) {
      await panel({ 't.en': 1n }, cycles);
      bench.advance(20_000);
      const { gauges, levers } = await panel();
      sum = BigInt.asUintN(16, sum + BigInt(cycles));
      expect([gauges['t.n'], levers['t.en']?.released], `${cycles} cycles`).toEqual([sum, true]);
    }
  });

  test('what rose and fell between two readings is told though both show the same', async () => {
    await order({ way: 'run' });
    await panel();
    await panel({ 't.en': 1n }, 3);
    bench.advance(100);
    const after = await panel();
    const told = [after.activity?.['t.en']];
    // The look that follows a set is one too: which of both saw the pulse end is a matter of the scan.
    expect(after.gauges['t.en']).toBe(0n);
    await panel();
    await panel({ 't.en': 1n });
    const on = await panel({ 't.en': 0n });
    bench.advance(100);
    expect(on.gauges['t.en']).toBe(0n);
    expect([...told, on.activity?.['t.en']].some((one) => one?.rose === 1n || one?.fell === 1n)).toBe(true);
    expect((await panel()).activity?.['t.en']).toEqual({ rose: 0n, fell: 0n, changes: 0 });
  });

  test('from the first edge on it stands, and goes on by as many edges as are asked for', () =>
    fc.assert(
      fc.asyncProperty(
        fc.array(fc.constantFrom(0, 1, 2, 3, 50, 777), { minLength: 1, maxLength: 5 }),
        async (counts) => {
          await loadBitstream(chain, made.bitstream, null, unwatched);
          bench.advance(5000);
          expect((await panel()).gauges['t.all']).toBe(0n);
          let all = 0;
          for (const count of counts) {
            await order({ way: 'step', count });
            expect((await rest()).left).toBe(0);
            all += count;
            expect((await panel()).gauges['t.all']).toBe(BigInt(all));
          }
        },
      ),
      { numRuns: 6 },
    ));

  test('until a condition of two signals holds, and no step further; one that never holds ends where it is told', async () => {
    await panel({ 't.en': 1n });
    await order({ way: 'step', count: 5 });
    await rest();
    await panel({ 't.en': 0n });
    await order({ way: 'until', condition: 'all == 300 && n == 5', most: 100_000 });
    expect(await rest()).toMatchObject({ holds: true, left: 100_000 - 295 });
    expect((await panel()).gauges).toMatchObject({ 't.all': 300n, 't.n': 5n });
    await order({ way: 'until', condition: 'n > 5', most: 1000 });
    expect(await rest()).toMatchObject({ holds: false, left: 0 });
    expect((await panel()).gauges['t.all']).toBe(1300n);
  });

  test('what cannot be asked for is told, and nothing moves', async () => {
    const code = async (what: StepOrder | null, stepper = 's') => {
      const state = await stepClock(chain, { ...on(), stepper, order: what });
      return state.ok ? null : state.error.code;
    };
    expect(await code({ way: 'step', count: -1 })).toBe('steps');
    expect(await code({ way: 'step', count: 2 ** 33 })).toBe('steps');
    expect(await code({ way: 'until', condition: '', most: 10 })).toBe('step-condition');
    expect(await code({ way: 'until', condition: 'n == 3 for 5 samples', most: 10 })).not.toBeNull();
    expect(await code({ way: 'until', condition: 'nothing == 3', most: 10 })).not.toBeNull();
    expect(await code({ way: 'hold' }, 'other')).toBe('no-such-stepper');
    expect((await panel()).gauges['t.all']).toBe(0n);
    bench.setFault({ name: 'clock-stopped' }, true);
    expect(await code({ way: 'run' })).toBe('clock-stands');
    bench.setFault({ name: 'clock-stopped' }, false);
  });
});
