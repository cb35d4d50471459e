// What is read once, and clocks that are held: against designs of which every name was traced.
import { describe, expect, test } from 'vitest';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { randomDesign } from '../../tests/support/random-design.ts';
import {
  knowWidths,
  letThroughOf,
  netlistOf,
  randomStimulus,
  recordOf,
  type Traced,
  traced,
} from '../../tests/support/replayed.ts';
import { digitsOf, indexAt, type ReadAt, type Recording } from '../wave/index.ts';
import {
  prepareReplay,
  proposalsFor,
  type Region,
  regionOf,
  type Replay,
  replay,
  replayDesign,
  tableOf,
} from './index.ts';

const SAMPLES = 90;
const FROM = 11;

interface Tried {
  readonly seed: number;
  readonly run: Traced;
  readonly region: Region;
}

function tried(seed: number, isLet: (sample: number) => boolean): Tried | null {
  const netlist = netlistOf(randomDesign(seed).text, 'd');
  const run = traced(netlist, SAMPLES, randomStimulus(chanceFrom(seed + 1)), isLet);
  knowWidths(run);
  const region = regionOf(replayDesign(netlist), { see: ['d'] });
  return region.ok ? { seed, run, region: region.value } : null;
}

async function replayed(region: Region, record: Recording, readings: readonly ReadAt[] = []): Promise<Replay> {
  const prepared = prepareReplay(region, record, 'samples', { readings });
  if (!prepared.ok) throw new Error(prepared.error.message);
  return replay(prepared.value);
}

/** Bits that are known of what was traced; fails where one is another one than it was. */
function knownIn({ seed, run }: Tried, done: Replay, from = 0): { known: number; all: number } {
  let [known, all] = [0, 0];
  for (const trace of done.recording.traces) {
    const values = run.values.get(trace.name);
    if (!values) continue;
    for (let k = from; k < SAMPLES - FROM; k++) {
      const digits = digitsOf(trace, indexAt(trace, k));
      const real = (values[k + FROM] ?? 0n).toString(2).padStart(trace.width, '0');
      const wrong = [...digits].some((digit, i) => digit !== 'x' && digit !== real[i]);
      if (wrong) expect(`${seed} ${trace.name} ${k}: ${digits}`).toBe(real);
      all += trace.width;
      known += [...digits].filter((digit) => digit !== 'x').length;
    }
  }
  return { known, all };
}

describe('a record of a clock that is held now and then', () => {
  /** Stretches of it, from one edge to many. */
  const heldBy = (seed: number) => {
    const chance = chanceFrom(seed + 2);
    let [isOn, left] = [true, 3];
    return () => {
      if (left-- === 0) [isOn, left] = [!isOn, chance.below(9)];
      return isOn;
    };
  };

  test('is computed as it was, whatever was let through; told nothing of that, it disagrees', async () => {
    let [compared, denied] = [0, 0];
    for (let seed = 7000; seed < 7006; seed++) {
      const one = tried(seed, heldBy(seed));
      const plans = one && proposalsFor(one.region);
      const plan = plans?.ok ? plans.value.at(-1) : undefined;
      if (!one || !plan) continue;
      const stored = plan.stored.map(({ name }) => name);
      const record = recordOf(one.run, stored, FROM);
      const clock = one.region.clock.name;
      const done = await replayed(one.region, {
        ...record,
        traces: [...record.traces, letThroughOf(one.run, clock, FROM)],
      });
      expect({ seed, found: done.disagreements }).toEqual({ seed, found: [] });
      compared += knownIn(one, done).known;
      const everything = recordOf(one.run, [...one.run.values.keys()], FROM);
      denied += (await replayed(one.region, everything)).disagreements.length;
    }
    expect(compared).toBeGreaterThan(5000);
    expect(denied).toBeGreaterThan(0);
  });

  test('is a table of as many cycles as were let through', async () => {
    const text =
      'module d(input clk, input a, output reg [3:0] n); always @(posedge clk) n <= a ? 0 : n + 1; endmodule';
    const lets = [true, false, false, true, true, false];
    const run = traced(
      netlistOf(text, 'd'),
      6,
      (_, __, k) => (k === 0 ? 1n : 0n),
      (k) => lets[k] ?? true,
    );
    knowWidths(run);
    const region = regionOf(replayDesign(run.netlist), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    const record = recordOf(run, ['d.a'], 0);
    const done = await replayed(region.value, { ...record, traces: [...record.traces, letThroughOf(run, 'd.clk')] });
    expect(done.detail.beginnings).toHaveLength(1);
    const table = await tableOf(done, 'd');
    expect(table.ok && table.value.text.trim().split('\n')).toEqual([
      'a,cycles,=n',
      '0x1,0,',
      ',1,',
      '0x0,0,0x0',
      ',0,0x0',
      ',0,0x0',
      ',1,0x1',
      ',1,0x2',
    ]);
  });
});

describe('registers that were read once', () => {
  test('make everything known from there on that time alone does not, in random designs', async () => {
    let [designs, before, after, all] = [0, 0, 0, 0];
    for (let seed = 8000; seed < 8030 && designs < 5; seed++) {
      const one = tried(seed, () => true);
      const plans = one && proposalsFor(one.region);
      const plan = plans?.ok ? plans.value.at(-1) : undefined;
      if (!one || !plan || plan.readableBits === 0 || plan.unknownIfRead.some(({ samples }) => samples === null))
        continue;
      designs++;
      const record = recordOf(
        one.run,
        plan.stored.map(({ name }) => name),
        FROM,
      );
      const at = 20;
      const whole = recordOf(
        one.run,
        plan.readable.map(({ name }) => name),
        0,
      );
      const values = Object.fromEntries(
        whole.traces.map((trace) => [trace.name, String(BigInt(`0b${digitsOf(trace, indexAt(trace, at + FROM))}`))]),
      );
      const late = Math.max(0, ...plan.unknownIfRead.map(({ samples }) => samples ?? 0));
      const done = await replayed(one.region, record, [{ sample: at, how: 'trigger', values }]);
      expect({ seed, found: done.disagreements }).toEqual({ seed, found: [] });
      const inRegion = new Set(one.region.signals.map(({ name }) => name));
      for (const { signal, samples } of done.unknown)
        if (inRegion.has(signal)) expect(samples, `${seed} ${signal}`).toBeLessThanOrEqual(at + late);
      before += knownIn(one, await replayed(one.region, record)).known;
      const found = knownIn(one, done);
      [after, all] = [after + found.known, all + found.all];
    }
    expect(designs).toBeGreaterThan(4);
    expect(after).toBeGreaterThan(before);
    expect(after / all).toBeGreaterThan(0.9);
  });

  const SUM = `module d(input clk, input [7:0] a, input [3:0] b, output reg [31:0] n, output reg q);
    always @(posedge clk) begin n <= n * n + a; q <= n[31] ^ b[0]; end endmodule`;
  const summed = (samples: number) => {
    const run = traced(netlistOf(SUM, 'd'), samples, (_, __, k) => BigInt((k * 37) & 15));
    knowWidths(run);
    const region = regionOf(replayDesign(run.netlist), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    return { run, region: region.value, record: recordOf(run, ['d.a', 'd.b'], 0) };
  };

  test('far behind the beginning, where functions have grown too large, they count from there on', async () => {
    const { run, region, record } = summed(6000);
    const value = run.values.get('d.n')?.[5000] ?? 0n;
    const done = await replayed(region, record, [{ sample: 5000, how: 'standing', values: { 'd.n': String(value) } }]);
    const trace = done.recording.traces.find(({ name }) => name === 'd.n');
    if (!trace) throw new Error('n is not there');
    for (const k of [5000, 5001, 5999])
      expect(BigInt(`0b${digitsOf(trace, indexAt(trace, k))}`)).toBe(run.values.get('d.n')?.[k]);
    expect(digitsOf(trace, indexAt(trace, 4999))).toContain('x');
    expect(done.detail.unusedReadings).toEqual([]);
  });

  test('of registers with an asynchronous reset count as well, wherever that is not on', async () => {
    const text = `module d(input clk, input rst_n, input [7:0] a, output reg [15:0] n, output reg [15:0] m);
      always @(posedge clk or negedge rst_n) if (!rst_n) n <= 0; else n <= n * n + a;
      always @(posedge clk or negedge rst_n) if (!rst_n) m <= 16'hffff; else m <= m + n; endmodule`;
    const run = traced(netlistOf(text, 'd'), 5200, (name, _, k) => BigInt(name === 'rst_n' ? 1 : (k * 37) & 255));
    knowWidths(run);
    const region = regionOf(replayDesign(run.netlist), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    for (const at of [3, 4500]) {
      const values = Object.fromEntries(['d.n', 'd.m'].map((name) => [name, String(run.values.get(name)?.[at])]));
      const done = await replayed(region.value, recordOf(run, ['d.a', 'd.rst_n'], 0), [
        { sample: at, how: 'trigger', values },
      ]);
      expect([done.detail.unusedReadings, done.disagreements]).toEqual([[], []]);
      for (const name of ['d.n', 'd.m']) {
        const trace = done.recording.traces.find((one) => one.name === name);
        if (!trace) throw new Error(`no ${name}`);
        for (const k of [at, at + 1, 5199])
          expect(BigInt(`0b${digitsOf(trace, indexAt(trace, k))}`)).toBe(run.values.get(name)?.[k]);
      }
    }
  });

  test('that cannot have been are told, at the beginning and far behind it', async () => {
    const { run, region, record } = summed(6000);
    const at = (k: number, off = 0n) => ({
      ...{ sample: k, how: 'trigger' as const },
      values: { 'd.n': String(BigInt.asUintN(32, (run.values.get('d.n')?.[k] ?? 0n) + off)) },
    });
    for (const wrong of [2, 5000]) {
      const done = await replayed(region, record, [at(0), at(wrong, 1n)]);
      expect(done.disagreements).toMatchObject([{ signal: 'd.n', sample: wrong, samples: 1 }]);
    }
    expect((await replayed(region, record, [at(0), at(2), at(5000)])).disagreements).toEqual([]);
  });

  test('count in the bits that the design decides, of registers alone where the clock stood', async () => {
    const { region, record } = summed(20);
    const of = (how: ReadAt['how'], values: Record<string, string>) => {
      const prepared = prepareReplay(region, record, 'samples', { readings: [{ sample: 3, how, values }] });
      if (!prepared.ok) throw new Error(prepared.error.message);
      return prepared.value.readings;
    };
    expect(of('trigger', { 'd.a': '3', 'd.nobody': '1' })).toEqual([]);
    expect(of('standing', { 'd.n[7:4]': '5' })).toEqual([
      { moment: 3, signal: 'd.n', is: { value: 0x50n, unknown: 0xffffff0fn } },
    ]);
    const parts = of('trigger', { 'd.n[7:4]': '5', 'd.n[31:8]': '1' });
    expect(parts).toEqual([{ moment: 3, signal: 'd.n', is: { value: 0x150n, unknown: 0xfn } }]);
  });
});
