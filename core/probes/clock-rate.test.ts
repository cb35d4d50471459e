// The rate of a sampling clock against a model of the counter that was written from docs/silicon.md, section 6: one step
// at every edge, 2^20 - 1 values; what is asked for is taken at the third edge, two flip-flops and the change behind it,
// and that it was taken is seen two edges of TCK later.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { checkRate, measureRate, type RateEffort } from './clock-rate.ts';

type TickReader = Parameters<typeof measureRate>[0];

/** TCK cycles of one read of the counter over a chain of some length. */
const READ_CYCLES = [60, 101, 200];

interface Model {
  readonly clockHz: number;
  readonly tckHz: number;
  readonly readCycles: number;
  /** Where in its period the clock stands at the start, 0 to 1. */
  readonly phase: number;
  /** Seconds a TCK cycle really takes, by its number. */
  readonly period?: (cycle: number) => number;
}

function counter({
  clockHz,
  tckHz,
  readCycles,
  phase,
  period = () => 1 / tckHz,
}: Model): TickReader & { readonly seconds: () => number } {
  let [cycles, now] = [0, 0];
  const pass = (count: number) => {
    // A long rest is passed in one step where TCK is even.
    if (count > 4096) now += count / tckHz;
    else for (let i = 0; i < count; i++) now += period(cycles + i);
    cycles += count;
  };
  const edges = (time: number) => Math.floor(time * clockHz + phase);
  return {
    read: (pause) => {
      pass(readCycles >> 1);
      const taken = edges(now) + 3;
      pass(pause);
      const seen = edges(now - 2 / tckHz);
      pass(readCycles - (readCycles >> 1));
      return Promise.resolve(seen >= taken ? taken % (2 ** 20 - 1) : null);
    },
    clock: pass,
    cycles: () => cycles,
    flush: async () => undefined,
    seconds: () => now,
  };
}

/** Evenly spread over the decades. */
const decades = (least: number, most: number) =>
  fc.double({ min: Math.log(least), max: Math.log(most), noNaN: true }).map(Math.exp);
const fine: RateEffort = { edges: 20_000, seconds: 0.25 };

describe('the rate of a sampling clock', () => {
  test('is right at every TCK from 1 kHz to 30 MHz against clocks from 32 kHz to 400 MHz', async () => {
    await fc.assert(
      fc.asyncProperty(
        decades(32e3, 400e6),
        decades(1e3, 30e6),
        fc.constantFrom(...READ_CYCLES),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        async (clockHz, tckHz, readCycles, phase) => {
          const found = await measureRate(counter({ clockHz, tckHz, readCycles, phase }), tckHz, fine);
          expect(found.known && Math.abs(found.hertz / clockHz - 1)).toBeLessThan(5e-4);
        },
      ),
      { numRuns: 2000 },
    );
  });

  test('the corners: 32 kHz at 30 MHz, 400 MHz at 1 kHz, and 12 MHz at 100 kHz, where the counter wraps many times', async () => {
    for (const [clockHz, tckHz] of [
      [32_000, 30e6],
      [32_000, 1000],
      [400e6, 1000],
      [400e6, 30e6],
      [12e6, 100e3],
      [12e6, 12e6],
    ] as const) {
      const found = await measureRate(counter({ clockHz, tckHz, readCycles: 101, phase: 0.3 }), tckHz, fine);
      expect([clockHz, tckHz, found.known && Math.abs(found.hertz / clockHz - 1) < 5e-4]).toEqual([
        clockHz,
        tckHz,
        true,
      ]);
    }
  });

  test('a clock that stands still reads 0', async () => {
    expect(await measureRate(counter({ clockHz: 0, tckHz: 1e6, readCycles: 101, phase: 0.5 }), 1e6, fine)).toEqual({
      known: true,
      hertz: 0,
    });
  });

  test('a clock of some hundred hertz is counted as long as there is time, one of one hertz does not answer', async () => {
    for (const [clockHz, close] of [
      [500, 0.05],
      [1000, 0.03],
      [1, 1],
    ] as const) {
      const found = await measureRate(counter({ clockHz, tckHz: 10e6, readCycles: 101, phase: 0.2 }), 10e6, fine);
      expect(found.known && Math.abs(found.hertz / clockHz - 1)).toBeLessThanOrEqual(close);
    }
  });

  test('a rate that is known is confirmed in one go, another one found all the same', async () => {
    const rateOf = async (clockHz: number, expectedHz: number, most = 1) => {
      let flushes = 0;
      const reader = counter({ clockHz, tckHz: 10e6, readCycles: 101, phase: 0.2 });
      const flush = async () => {
        flushes++;
      };
      const found = await checkRate({ ...reader, flush }, 10e6, expectedHz, { edges: 1000, seconds: 0.01 });
      expect(flushes).toBeLessThanOrEqual(most);
      return found.known ? found.hertz : null;
    };
    for (const [clockHz, expectedHz] of [
      [50e6, 50e6],
      [40_000, 40_000],
      [25e6, 50e6],
    ] as const)
      expect(Math.abs(((await rateOf(clockHz, expectedHz)) ?? 0) / clockHz - 1)).toBeLessThan(0.01);
    // Far slower than it was: found out, and not said to stand still.
    for (const clockHz of [1e6, 40_000])
      expect(Math.abs(((await rateOf(clockHz, 50e6, 9)) ?? 0) / clockHz - 1)).toBeLessThan(0.02);
    expect(await rateOf(0, 50e6, 9)).toBe(0);
  });

  test('with a TCK that stumbles now and then it is right or said not to be known, never wrong', async () => {
    await fc.assert(
      fc.asyncProperty(
        decades(20e6, 400e6),
        decades(1e3, 1e6),
        fc.integer({ min: 400, max: 900 }),
        fc.double({ min: 2, max: 5000, noNaN: true }),
        async (clockHz, tckHz, every, times) => {
          const stumbling = counter({
            clockHz,
            tckHz,
            readCycles: 101,
            phase: 0.1,
            period: (cycle) => (cycle % every === every - 1 ? times / tckHz : 1 / tckHz),
          });
          const found = await measureRate(stumbling, tckHz, { edges: 20_000, seconds: 0 });
          // Where it stumbled while it was counted, TCK is slower than it is said to be, and the clock seems faster by
          // as much.
          const really = (stumbling.seconds() * tckHz) / stumbling.cycles();
          if (found.known)
            expect(Math.min(...[clockHz, clockHz * really].map((one) => Math.abs(found.hertz / one - 1)))).toBeLessThan(
              0.05,
            );
        },
      ),
      { numRuns: 300 },
    );
  });

  test('no more TCK is spent than was granted', async () => {
    const reader = counter({ clockHz: 32_000, tckHz: 30e6, readCycles: 101, phase: 0 });
    await measureRate(reader, 30e6, { edges: 20_000, seconds: 0.01 });
    expect(reader.seconds()).toBeLessThan(0.0105);
  });
});
