// Records of every kind, and what is computed from them.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { knowWidths, netlistOf, randomStimulus, recordOf, traced } from '../../tests/support/replayed.ts';
import { elaborate } from '../hdl/index.ts';
import { unwatched } from '../progress.ts';
import { simulate } from '../sim/events/index.ts';
import { digitsOf, indexAt, type Recording, type Trace, TraceWriter, VcdReader } from '../wave/index.ts';
import {
  meaningsOf,
  prepareReplay,
  proposalsFor,
  regionOf,
  type Replay,
  replay,
  replayDesign,
  sideBySide,
  tableOf,
  testbenchOf,
  whyIs,
} from './index.ts';

const regionIn = (text: string, top: string, see: string, levers: readonly string[] = []) => {
  const region = regionOf(replayDesign(netlistOf(text, top), levers), { see: [see] });
  if (!region.ok) throw new Error(region.error.message);
  return region.value;
};

async function replayed(
  region: Parameters<typeof prepareReplay>[0],
  record: Recording,
  timing: Parameters<typeof prepareReplay>[2] = 'samples',
): Promise<Replay> {
  const prepared = prepareReplay(region, record, timing);
  if (!prepared.ok) throw new Error(prepared.error.message);
  return replay(prepared.value);
}

/** Values of a signal, sample by sample, as digits. */
function digits({ recording, prepared: { moments } }: Replay, name: string): string[] {
  const trace = recording.traces.find((one) => one.name === name);
  if (!trace) throw new Error(`no trace of ${name}`);
  return [...moments.ticks].map((tick) => digitsOf(trace, indexAt(trace, tick)));
}

function traceOf(name: string, width: number, values: readonly (number | null)[], ticks?: readonly number[]): Trace {
  const writer = new TraceWriter(width);
  for (const [i, value] of values.entries())
    writer.add(ticks?.[i] ?? i, [value ?? 0], value === null ? [2 ** width - 1] : null);
  return writer.finish({ name, width, signed: false, domain: '' });
}

const samplesOf = (traces: readonly Trace[], length: number): Recording => ({
  ...{ title: 'made', tickSeconds: 1e-6, length, triggers: [], gaps: [], stored: null, sampled: true, traces },
});

describe('SHA-256, from the words and three bits of control', () => {
  const text = ['sha256_words', 'sha256'].map((name) => readFileSync(`tests/designs/${name}.v`, 'utf8')).join('\n');
  const { netlist } = elaborate([{ name: 'sha.v', text }], { top: 'sha256_words' });
  if (!netlist) throw new Error('no design');
  // FIPS 180-4: "abc", padded to one block.
  const block = [0x61626380, ...Array<number>(14).fill(0), 24];
  const run = traced(netlist, 110, (name, _, k) => {
    if (name === 'rst') return k < 2 ? 1n : 0n;
    if (name === 'load') return k >= 4 && k < 20 ? 1n : 0n;
    if (name === 'word') return BigInt(block[k - 4] ?? 0);
    return k === 21 ? 1n : 0n;
  });
  knowWidths(run);

  test('all 64 rounds and the digest follow, more than thirty bits for one', async () => {
    const region = regionOf(replayDesign(netlist), { see: ['sha256_words'] });
    if (!region.ok) throw new Error(region.error.message);
    const plans = proposalsFor(region.value);
    if (!plans.ok) throw new Error(plans.error.message);
    const plan = plans.value.at(-1);
    expect(plan?.stored.map(({ name, width }) => `${name} ${width}`)).toEqual([
      'sha256_words.load 1',
      'sha256_words.rst 1',
      'sha256_words.start 1',
      'sha256_words.word 32',
    ]);
    expect(plan?.factor).toBeGreaterThan(30);
    const done = await replayed(
      region.value,
      recordOf(
        run,
        (plan?.stored ?? []).map(({ name }) => name),
      ),
    );
    expect(done.disagreements).toEqual([]);
    expect(done.seen / done.stored).toBeGreaterThan(30);
    const last = digits(done, 'sha256_words.digest').at(-1) ?? '';
    // FIPS 180-4, example of SHA-256, one block.
    expect(BigInt(`0b${last}`).toString(16)).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
    // From the start of the block on nothing is unknown any more.
    for (const name of ['a', 'e', 'h', 'round', 's0'].map((one) => `sha256_words.u_core.${one}`))
      for (let k = 24; k < 90; k++)
        expect(`${name} ${k} ${digits(done, name)[k]}`).toBe(
          `${name} ${k} ${(run.values.get(name)?.[k] ?? 0n).toString(2).padStart(digits(done, name)[k]?.length ?? 0, '0')}`,
        );
  });
});

describe('memories', () => {
  const TEXT = `module d(input clk, we, input [1:0] wa, ra, input [3:0] wd, output [3:0] q);
    reg [3:0] m [2:5]; always @(posedge clk) if (we) m[wa + 2] <= wd; assign q = m[ra + 2]; endmodule`;

  test('a word is known from when it was written, under the number that the source gives it', async () => {
    const record = samplesOf(
      [
        traceOf('d.we', 1, [1, 1, 0, 0, 0]),
        traceOf('d.wa', 2, [1, 3, 0, 0, 0]),
        traceOf('d.wd', 4, [9, 6, 0, 0, 0]),
        traceOf('d.ra', 2, [1, 1, 3, 0, 1]),
      ],
      5,
    );
    const done = await replayed(regionIn(TEXT, 'd', 'd'), record);
    expect(digits(done, 'd.q')).toEqual(['xxxx', '1001', '0110', 'xxxx', '1001']);
    expect(digits(done, 'd.m[3]')).toEqual(['xxxx', '1001', '1001', '1001', '1001']);
    expect(digits(done, 'd.m[5]')).toEqual(['xxxx', 'xxxx', '0110', '0110', '0110']);
  });

  test('a write to a place that nobody knows leaves no word known; one that may have been keeps what both share', async () => {
    const record = (wa: (number | null)[], we: (number | null)[]) =>
      samplesOf(
        [
          traceOf('d.we', 1, we),
          traceOf('d.wa', 2, wa),
          traceOf('d.wd', 4, [9, 11, 0, 0]),
          traceOf('d.ra', 2, [1, 1, 1, 1]),
        ],
        4,
      );
    const unknownPlace = await replayed(regionIn(TEXT, 'd', 'd'), record([1, null, 0, 0], [1, 1, 0, 0]));
    expect(digits(unknownPlace, 'd.q')).toEqual(['xxxx', '1001', '10x1', '10x1']);
    const perhaps = await replayed(regionIn(TEXT, 'd', 'd'), record([1, 1, 0, 0], [1, null, 0, 0]));
    expect(digits(perhaps, 'd.q')).toEqual(['xxxx', '1001', '10x1', '10x1']);
  });
});

describe('gaps', () => {
  test('nothing of before counts behind one, until it follows again', async () => {
    const region = regionIn(
      'module d(input clk, a, output reg q, r); always @(posedge clk) begin q <= a; r <= q; end endmodule',
      'd',
      'd',
    );
    const ticks = [0, 1, 2, 10, 11, 12];
    const record: Recording = {
      ...samplesOf([traceOf('d.a', 1, [1, 0, 1, 1, 0, 0], ticks)], 13),
      stored: Float64Array.from(ticks),
      gaps: [{ from: 3, to: 10, ticks: 7 }],
    };
    const done = await replayed(region, record);
    expect(digits(done, 'd.q')).toEqual(['x', '1', '0', 'x', '1', '0']);
    expect(digits(done, 'd.r')).toEqual(['x', 'x', '1', 'x', 'x', '1']);
    expect(done.unknown.map(({ signal, samples }) => [signal, samples])).toEqual([
      ['d.r', 4],
      ['d.q', 2],
    ]);
  });
});

describe('asynchronous resets, falling edges, clocks of all kinds', () => {
  test('a reset that is active decides at once, and what is there when it ends', async () => {
    const region = regionIn(
      `module d(input clk, rst, input [1:0] a, output reg [1:0] q);
        always @(posedge clk or posedge rst) if (rst) q <= 2; else q <= q + a; endmodule`,
      'd',
      'd',
    );
    const record = samplesOf([traceOf('d.rst', 1, [0, 1, 0, 0]), traceOf('d.a', 2, [1, 1, 1, 1])], 4);
    expect(digits(await replayed(region, record), 'd.q')).toEqual(['xx', '10', '10', '11']);
  });

  const TWO = `module d(input clk, slow, a, output reg q, r, n);
    always @(posedge clk) q <= a; always @(posedge slow) r <= q; always @(negedge clk) n <= a; endmodule`;

  test('registers of another clock, and of falling edges, are told by name where only samples are known', async () => {
    const done = await replayed(regionIn(TWO, 'd', 'd'), samplesOf([traceOf('d.a', 1, [1, 0, 1])], 3));
    expect(done.missing).toEqual(
      expect.arrayContaining([
        { kind: 'clock', name: 'd.r', clock: 'slow' },
        { kind: 'edge', name: 'd.n' },
      ]),
    );
    expect(digits(done, 'd.r')).toEqual(['x', 'x', 'x']);
    expect(digits(done, 'd.q')).toEqual(['x', '1', '0']);
  });

  test('a dump with its clocks in it computes each in its own time', async () => {
    const dump = `$timescale 1 ns $end $scope module tb $end $scope module dut $end
      $var wire 1 c clk $end $var wire 1 s slow $end $var wire 1 a a $end $upscope $end $upscope $end $enddefinitions $end
      #0 0c 0s 1a #5 1c #6 0a #10 0c #12 1s #15 1c 1a #20 0c 0s #25 1c #30 0c 1s`;
    const reader = new VcdReader({ stamps: true });
    reader.push(new TextEncoder().encode(dump));
    reader.finish();
    const done = await replayed(regionIn(TWO, 'd', 'd'), reader.recording('dump'), { stamps: reader.stamps });
    const at = (name: string, tick: number) => {
      const trace = done.recording.traces.find((one) => one.name === name);
      return trace ? digitsOf(trace, indexAt(trace, tick)) : '';
    };
    // q takes 1 at 5, 0 at 15, 1 at 25; r takes q at 12 and 30; n takes a at the falling edges.
    expect([4, 5, 14, 15, 24, 25].map((tick) => at('d.q', tick)).join('')).toBe('x11001');
    expect([11, 12, 29, 30].map((tick) => at('d.r', tick)).join('')).toBe('x111');
    expect([9, 10, 19, 20].map((tick) => at('d.n', tick)).join('')).toBe('x001');
    expect(done.missing).toEqual([]);
  });

  test('a clock that is in the dump and never rises is refused', () => {
    const region = regionIn(TWO, 'd', 'd');
    const record = samplesOf([traceOf('d.clk', 1, [0]), traceOf('d.a', 1, [0, 1])], 2);
    const prepared = prepareReplay(region, record, { stamps: Float64Array.of(0, 1) });
    expect(prepared.ok || prepared.error.code).toBe('never-rises');
  });

  test('a clock that logic makes and a circle of logic are told, and never guessed; a latch is no design here', async () => {
    const region = regionIn(
      `module d(input clk, a, output reg q, output c);
        reg half = 0; always @(posedge clk) half <= ~half;
        always @(posedge half) q <= a; assign c = ~(c & a); endmodule`,
      'd',
      'd',
    );
    const done = await replayed(region, samplesOf([traceOf('d.a', 1, [1, 0, 1, 1])], 4));
    const kinds = done.missing.map(({ kind, name }) => `${kind} ${name}`).sort();
    expect(kinds).toEqual(['clock d.q', 'loop d.c']);
    for (const name of ['d.q', 'd.c']) expect(digits(done, name).join('')).toBe('xxxx');
    expect(() => netlistOf('module d(input en, a, output reg l); always @* if (en) l = a; endmodule', 'd')).toThrow(
      'needs a latch',
    );
  });

  test('what a lever held is taken from the record alone', async () => {
    const text = 'module d(input clk, a, output reg q); wire w = ~a; always @(posedge clk) q <= w; endmodule';
    const record = samplesOf([traceOf('d.a', 1, [1, 1, 0])], 3);
    expect(digits(await replayed(regionIn(text, 'd', 'd'), record), 'd.q')).toEqual(['x', '0', '0']);
    const held = await replayed(regionIn(text, 'd', 'd', ['d.w']), record);
    expect(digits(held, 'd.q')).toEqual(['x', 'x', 'x']);
    expect(held.missing).toEqual([{ kind: 'lever', name: 'd.w' }]);
  });
});

describe('more than there is room for', () => {
  test('is computed up to a sample that is told, and unknown from there on', async () => {
    const text = `module d(input clk, rst, output reg [31:0] n, output [3:0] q); reg [3:0] m [0:3]; assign q = m[0];
      always @(posedge clk) begin n <= rst ? 0 : n + 1; m[n[1:0]] <= n[3:0]; end endmodule`;
    const record = samplesOf([traceOf('d.rst', 1, [1, 0])], 20_000);
    const prepared = prepareReplay(regionIn(text, 'd', 'd'), record, 'samples');
    if (!prepared.ok) throw new Error(prepared.error.message);
    const done = await replay(prepared.value, unwatched, { mostKept: 1000 });
    expect(done.cut).toBe(4096);
    const word = done.recording.traces.find(({ name }) => name === 'd.m[1]');
    // Written with 1, 5, 9 and so on, every fourth sample.
    expect([102, 103, 5000].map((tick) => word && digitsOf(word, indexAt(word, tick)))).toEqual([
      '0001',
      '0101',
      'xxxx',
    ]);
  });
});

describe('what was read while the design stood', () => {
  test('is known at that sample, and whatever follows from it before and after', async () => {
    const text = `module d(input clk, go, output reg [7:0] n, output reg [3:0] kept);
      always @(posedge clk) begin if (go) n <= n + 1; if (n == 200) kept <= n[3:0]; end endmodule`;
    const readings = [{ sample: 4, how: 'trigger' as const, values: { 'd.n': '9', 'd.kept': '5' } }];
    const record = samplesOf([traceOf('d.go', 1, [1, 0, 1, 1, 0])], 5);
    const prepared = prepareReplay(regionIn(text, 'd', 'd'), record, 'samples', { readings });
    if (!prepared.ok) throw new Error(prepared.error.message);
    const done = await replay(prepared.value);
    expect(digits(done, 'd.n').map((text) => Number.parseInt(text, 2))).toEqual([6, 7, 7, 8, 9]);
    expect(new Set(digits(done, 'd.kept'))).toEqual(new Set(['0101']));
    expect(done.unknown).toEqual([]);
  });
});

describe('what does not agree', () => {
  const TEXT = `module d(input clk, other, a, output reg q, output reg m);
    reg s; always @(posedge other) s <= a; always @(posedge clk) begin q <= a; m <= s; end endmodule`;

  test('is told with the first sample, and what it would mean', async () => {
    const region = regionIn(TEXT, 'd', 'd');
    const done = await replayed(
      region,
      samplesOf(
        [
          traceOf('d.a', 1, [1, 0, 0, 1, 1]),
          traceOf('d.q', 1, [0, 1, 1, 0, 1]),
          traceOf('d.s', 1, [0, 0, 1, 1, 1]),
          traceOf('d.m', 1, [0, 0, 0, 0, 1]),
        ],
        5,
      ),
    );
    expect(done.disagreements).toEqual([
      { signal: 'd.q', sample: 2, tick: 2, recorded: '1', computed: '0', samples: 1 },
      { signal: 'd.m', sample: 3, tick: 3, recorded: '0', computed: '1', samples: 1 },
    ]);
    expect(meaningsOf(done)).toEqual(['outside', 'crossing']);
  });

  test('no state of the registers explains a record of another build, and that is told', async () => {
    const text = `module d(input clk, output reg [2:0] n, output odd); assign odd = n[0];
      always @(posedge clk) n <= n + 1; endmodule`;
    const done = await replayed(regionIn(text, 'd', 'd'), samplesOf([traceOf('d.odd', 1, [0, 1, 1, 0, 0, 1])], 6));
    expect(done.disagreements.map(({ signal, recorded, computed }) => [signal, recorded, computed])).toEqual([
      ['d.odd', '1', '0'],
    ]);
  });

  test('names of the record that the design does not have, or not so wide, are told; nothing in common is refused', async () => {
    const region = regionIn(TEXT, 'd', 'd');
    const done = await replayed(
      region,
      samplesOf([traceOf('tb.dut.a', 1, [1, 0]), traceOf('tb.dut.q', 2, [1, 0]), traceOf('tb.more', 1, [0, 1])], 2),
    );
    expect(done.unmatched).toEqual({
      misfits: [{ name: 'tb.dut.q', width: 2, wanted: 1 }],
      names: ['tb.dut.q', 'tb.more'],
    });
    expect(digits(done, 'd.q')).toEqual(['x', '1']);
    const nothing = prepareReplay(region, samplesOf([traceOf('elsewhere', 1, [0, 1])], 2), 'samples');
    expect(nothing.ok || nothing.error.code).toBe('nothing-recorded');
    expect(regionOf(region.design, { see: ['nowhere'] })).toMatchObject({
      ok: false,
      error: { code: 'nothing-there' },
    });
  });
});

describe('why', () => {
  const TEXT = `module d(input clk, rst, en, sel, a, b, output reg q, output y);
    assign y = q & ~en;
    always @(posedge clk or posedge rst) if (rst) q <= 0; else if (en) q <= sel ? a : b; endmodule`;

  test('goes back through choices and edges, each to what decided', async () => {
    const done = await replayed(
      regionIn(TEXT, 'd', 'd'),
      samplesOf(
        [
          traceOf('d.rst', 1, [1, 0, 0, 0, 0]),
          traceOf('d.en', 1, [0, 0, 1, 0, 0]),
          traceOf('d.sel', 1, [0, 0, 1, 0, 0]),
          traceOf('d.a', 1, [0, 0, 1, 0, 0]),
          traceOf('d.b', 1, [0, 0, 0, 0, 0]),
        ],
        5,
      ),
    );
    const why = (name: string, tick: number) =>
      whyIs(done.prepared.region, done.recording, name, tick, (at) => (at > 0 ? at - 1 : null));
    expect(why('d.y', 4)).toMatchObject({ value: '1', how: 'logic' });
    // It took its value at the edge before sample 3, and has kept it since.
    const taken = why('d.q', 4);
    expect(taken).toMatchObject({ value: '1', since: 3, how: 'edge', at: { line: 3 } });
    expect(taken?.causes.map(({ signal, tick, value, role }) => `${role} ${signal} ${tick} ${value}`)).toEqual([
      'chose d.en 2 1',
      'chose d.sel 2 1',
      'gave d.a 2 1',
    ]);
    expect(why('d.q', 0)).toMatchObject({ how: 'reset', causes: [{ signal: 'd.rst', value: '1' }] });
    expect(why('d.a', 2)).toMatchObject({ how: 'edge-of-design', causes: [] });
    expect(why('nobody', 0)).toBeNull();
  });
});

describe('into simulation', () => {
  const TEXT = `module top(input clk, input [3:0] a, output [3:0] y);
      stage #(.BIAS(3)) u_stage(.clk(clk), .in(a), .out(y)); endmodule
    module stage #(parameter BIAS = 0)(input clk, input [3:0] in, output reg [3:0] out);
      reg [3:0] m [0:1]; reg at; always @(posedge clk) begin at <= ~at; m[at] <= in; out <= m[~at] + BIAS + out[0]; end endmodule`;
  const netlist = netlistOf(TEXT, 'top');
  const run = traced(netlist, 40, randomStimulus(chanceFrom(7), 2));
  knowWidths(run);

  async function bench(fill: Parameters<typeof testbenchOf>[3], text = TEXT) {
    const done = await replayed(regionIn(TEXT, 'top', 'u_stage'), recordOf(run, ['top.a', 'top.y'], 5));
    const made = testbenchOf(done, 'top.u_stage', { module: 'stage', parameters: { BIAS: 3n } }, fill);
    if (!made.ok) throw new Error(made.error.message);
    const data = new Map(made.value.files.map((one) => [one.name, one.text]));
    const reader = new VcdReader();
    let printed = '';
    const { run: ended } = simulate(
      [{ name: 'top.v', text }, ...made.value.files.filter(({ name }) => name.endsWith('.v'))],
      {
        top: made.value.name,
        host: { read: (name) => data.get(name) ?? null, print: (more) => void (printed += more) },
        dump: { write: (more) => reader.push(new TextEncoder().encode(more)) },
        dumpAll: true,
      },
    );
    const { tickSeconds } = reader.finish();
    const beside = sideBySide(done, 'top.u_stage', made.value.name, reader.recording('x').traces, tickSeconds);
    return { done, made: made.value, ended, printed, beside };
  }

  test.each(['x', 'zeros', 'ones', { seed: 3 }] as const)(
    'what is not known filled with %s, it agrees',
    async (fill) => {
      const { ended, printed, beside, made } = await bench(fill);
      expect([ended?.ending, beside.differences]).toEqual(['finish', []]);
      expect(printed).toContain('35 samples, no difference');
      if (fill !== 'x') expect(made.compared).toEqual([{ port: 'out', samples: expect.any(Number) }]);
      expect(beside.traces.map(({ name }) => name)).toContain('simulation: top.u_stage.out');
    },
  );

  test('a source that does another thing differs, where it does is told, and the run stops', async () => {
    const { ended, printed, beside } = await bench('zeros', TEXT.replace('+ BIAS', '- BIAS'));
    expect(ended?.ending).toBe('stop');
    expect(printed).toMatch(/sample \d+: out is [01]{4}, the hardware had [01x]{4}/);
    expect(beside.differences.map(({ signal }) => signal)).toContain('top.u_stage.out');
  });

  test('ports whose names are the testbench’s own, or need to be escaped, are kept apart', async () => {
    const text =
      'module d(input clk, input r_in, \\odd-name , output reg sample); always @(posedge clk) sample <= r_in ^ \\odd-name ; endmodule';
    const done = await replayed(
      regionIn(text, 'd', 'd'),
      samplesOf(
        [traceOf('d.r_in', 1, [1, 0, 1]), traceOf('d.odd-name', 1, [0, 0, 1]), traceOf('d.sample', 1, [0, 1, 0])],
        3,
      ),
    );
    const made = testbenchOf(done, 'd', { module: 'd', parameters: {} }, 'zeros');
    if (!made.ok) throw new Error(made.error.message);
    const data = new Map(made.value.files.map((one) => [one.name, one.text]));
    const { run: ended, messages } = simulate([{ name: 'd.v', text }, ...made.value.files.slice(0, 1)], {
      top: made.value.name,
      host: { read: (name) => data.get(name) ?? null, print: () => {} },
    });
    expect(messages.filter(({ severity }) => severity === 'error')).toEqual([]);
    expect(ended?.ending).toBe('finish');
    expect(testbenchOf(done, 'd.sample', { module: 'd', parameters: {} }, 'x')).toMatchObject({ ok: false });
  });

  test('as a table it holds what follows from the inputs alone', async () => {
    const text = 'module d(input clk, input [1:0] a, output reg [1:0] q); always @(posedge clk) q <= a; endmodule';
    const done = await replayed(
      regionIn(text, 'd', 'd'),
      samplesOf([traceOf('d.a', 2, [1, 1, 2]), traceOf('d.q', 2, [3, 1, 1])], 3),
    );
    const made = await tableOf(done, 'd');
    expect(made.ok && made.value.text).toBe('a,cycles,=q\n0x1,0,\n,1,0x1\n,1,\n0x2,0,0x1\n');
  });
});
