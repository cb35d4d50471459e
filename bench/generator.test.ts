// A clock generator on the board: built, loaded, sampled on, and what becomes of it when its oscillator stops.
import { valueAt } from '../tests/support/captured.ts';
import { chainOn } from '../tests/support/chain-on.ts';
import { describe, expect, test } from 'vitest';
import { build, frequenciesByName, type Project } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { captureNow, loadBitstream } from '../core/operations/index.ts';
import { emptyPlan, type ProbePlan } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

const TEXT = `
module top(input clk, input aux, output ok, output blink, output beside);
  wire fast, slow;
  corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8), .DIVIDE_B(16)) u_clocks (
    .clock_in(clk), .clock_a(fast), .clock_b(slow), .clock_c(), .locked(ok));
  reg [15:0] count = 0, half = 0, plain = 0, other = 0;
  always @(posedge fast) count <= count + 1;
  always @(posedge slow) half <= half + 1;
  always @(posedge clk) plain <= plain + 1;
  always @(posedge aux) other <= other + 1;
  assign blink = count[9] ^ half[8];
  assign beside = plain[7] ^ other[7];
endmodule
`;

const project = (text = TEXT, part = 'CV25', clocks: Record<string, number> = { clk: 12e6, aux: 1e6 }): Project => ({
  file: { format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 'g', part, pins: 'pins.csv', clocks },
  files: [
    { name: 'top.v', text },
    { name: 'pins.csv', text: 'clk,P1\naux,P2\nok,P5\nblink,P6\nbeside,P7\n' },
  ],
});
const plan: ProbePlan = {
  recorders: [
    {
      ...{ name: 'r', clock: 'top.fast', depth: 64, comparators: 1, stages: 1, qualifier: false, segments: 1 },
      signals: ['top.count', 'top.half', 'top.plain'],
    },
  ],
  panels: [],
};

function bench(part = 'CV25') {
  const board = {
    fpga: 0,
    oscillators: [
      { name: 'X1', pin: 'P1', hz: 12e6 },
      { name: 'X2', pin: 'P2', hz: 1e6 },
    ],
    lamps: [{ name: 'ok', pin: 'P5' }],
  };
  const read = readBenchFile(JSON.stringify({ chain: [{ kind: 'corvane', part }], board }), 'g');
  if (!read.ok) throw new Error(read.error.message);
  return new Bench(read.value);
}
const lit = (of: Bench): boolean => {
  of.panel(0);
  of.advance(30_000);
  return (of.panel(0).lamps[0]?.level ?? 0) > 0.9;
};

describe('a clock generator on the board', () => {
  test('makes 48 and 24 MHz of 12, on which a recorder samples', async () => {
    const built = build({ project: project(), plan });
    expect(built.messages.filter(({ severity }) => severity === 'error')).toEqual([]);
    const bits = readBitstream(built.bitstream ?? new Uint8Array());
    if (!bits.ok || !built.probes) throw new Error('not built');
    const cable = new BenchCable(bench());
    const loaded = await loadBitstream(chainOn(cable), bits.value, null, unwatched);
    expect(loaded.ok).toBe(true);
    const request = {
      ...{ part: 'CV25', device: null, map: built.probes, recorder: 'r', when: '', before: 0, tckHz: cable.tckHz },
      clocks: frequenciesByName(built, { clk: 12e6 }),
    };
    const taken = await captureNow(chainOn(cable), request);
    if (!taken.ok) throw new Error(taken.error.message);
    const { capture } = taken.value;
    expect(capture.sampleRate).toBe(48e6);
    const [count, half, plain] = ['count', 'half', 'plain'].map((name) => {
      const signal = capture.signals.find((one) => one.name === `top.${name}`);
      return signal && Array.from({ length: capture.samples }, (_, i) => Number(valueAt(capture, signal, i)));
    });
    if (!count || !half || !plain) throw new Error('not captured');
    const from = (list: readonly number[]) => list.map((value) => (value - (list[0] ?? 0) + 65536) % 65536);
    expect(from(count)).toEqual(count.map((_, i) => i));
    // Of the others each value stands for as many samples as there are cycles in one of theirs.
    const lengths = (list: readonly number[]) =>
      list
        .flatMap((value, i) => (value === list[i - 1] ? [] : [list.filter((one) => one === value).length]))
        .slice(1, -1);
    expect(new Set(lengths(half))).toEqual(new Set([2]));
    expect(new Set(lengths(plain))).toEqual(new Set([4]));
  });

  test('loses its lock with its oscillator, and finds it again', async () => {
    const built = build({ project: project(), plan: emptyPlan });
    const bits = readBitstream(built.bitstream ?? new Uint8Array());
    if (!bits.ok) throw new Error('not built');
    const on = bench();
    await loadBitstream(chainOn(new BenchCable(on)), bits.value, null, unwatched);
    expect(lit(on)).toBe(true);
    on.setFault({ name: 'clock-stopped' }, true);
    expect(lit(on)).toBe(false);
    on.setFault({ name: 'clock-stopped' }, false);
    expect(lit(on)).toBe(true);
  });
});
