// The panel and the stepper as instruments, over JTAG and the whole bench: pulses to the cycle, what happened between
// two readings, and steps until something holds.
import fc from 'fast-check';
import { beforeEach, describe, expect, test } from 'vitest';
import { MADE_PART, madeBoard } from '../tests/support/made-board.ts';
import { drive, stepClock, type StepOrder } from '../core/operations/index.ts';

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

const { bench, chain, map, load } = madeBoard({
  ...{ top: 't', files: [{ name: 't.v', text: DESIGN }], plan: PLAN, clocks: { clk: 12e6 } },
});

const ON = { part: MADE_PART, device: null, map };
async function panel(set: Readonly<Record<string, bigint | null>> = {}, cycles?: number) {
  const driven = await drive(chain, { ...ON, set, cycles: cycles ?? null });
  if (!driven.ok) throw new Error(driven.error.message);
  return driven.value.reading;
}
async function order(what: StepOrder | null) {
  const state = await stepClock(chain, { ...ON, stepper: 's', order: what });
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
  beforeEach(load);

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
          await load();
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
      const state = await stepClock(chain, { ...ON, stepper, order: what });
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
