// From a recorder on the bench to every signal: what was read once, at the trigger or while a stepper held the clock,
// and what the stepper let through.
import { beforeEach, describe, expect, test } from 'vitest';
import { MADE_PART, madeBoard } from '../tests/support/made-board.ts';
import { elaborate } from '../core/hdl/index.ts';
import { captureNow, type CaptureRequest, drive, stepClock, type StepOrder } from '../core/operations/index.ts';
import { letThroughName } from '../core/probes/index.ts';
import { prepareReplay, regionOf, type Replay, replay, replayDesign } from '../core/replay/index.ts';
import {
  type Capture,
  digitsOf,
  indexAt,
  readCaptureJson,
  recordingOf,
  VcdReader,
  writeJson,
  writeVcd,
} from '../core/wave/index.ts';

/** Nothing sets `key` while it runs, and nothing ever sets the sums to what is known. */
const DESIGN = `module t(input clk, input en, input rst_n, output reg [15:0] sum = 16'h1234, output reg [7:0] key = 8'ha5);
  reg [15:0] n = 7;
  reg [3:0] cleared = 0;
  reg [699:0] wide = 700'h5a;
  always @(posedge clk) wide <= {wide[698:0], wide[699]};
  always @(posedge clk) begin n <= n + 1; if (en) sum <= sum + (n[7:0] ^ key); if (key == 0) key <= n[7:0]; end
  always @(posedge clk or negedge rst_n) if (!rst_n) cleared <= 0; else cleared <= cleared + 1;
endmodule`;
const FILES = [{ name: 't.v', text: DESIGN }];

const GAUGES = ['t.sum', 't.n', 't.key', 't.cleared', 't.en'];
const PLAN = {
  recorders: [
    {
      ...{ name: 'r', clock: 't.clk', depth: 64, signals: ['t.en', 't.n[3:0]', 't.sum'] },
      atTrigger: ['t.sum[15:8]', 't.sum[7:0]', 't.n', 't.key', 't.wide'],
    },
  ],
  panels: [{ name: 'p', clock: 't.clk', levers: ['t.en', 't.rst_n'], gauges: GAUGES }],
  steppers: [{ name: 's', clock: 't.clk', held: true }],
};
const { bench, chain, map, load } = madeBoard({
  ...{ top: 't', files: FILES, plan: PLAN, clocks: { clk: 12e6 } },
});
const ON = { part: MADE_PART, device: null, map };

async function order(what: StepOrder | null) {
  const state = await stepClock(chain, { ...ON, stepper: 's', order: what });
  if (!state.ok) throw new Error(state.error.message);
  return state.value;
}

async function set(levers: Readonly<Record<string, bigint>>): Promise<void> {
  const driven = await drive(chain, { ...ON, set: levers });
  if (!driven.ok) throw new Error(driven.error.message);
}

async function captured(over: Partial<CaptureRequest>, meanwhile: () => Promise<void>): Promise<Capture> {
  const request = { ...ON, recorder: null, when: '', before: 0, tckHz: 10e6, clocks: { clk: 12e6 }, ...over };
  let looks = 0;
  const taken = await captureNow(chain, request, async () => {
    if (looks++ === 0) await meanwhile();
    bench.advance(20);
    return looks < 20;
  });
  if (!taken.ok) throw new Error(taken.error.message);
  return taken.value.capture;
}

/** All of the design from `en` and what was read, through the file that the capture is written to. */
async function replayed(capture: Capture): Promise<Replay> {
  const { netlist } = elaborate(FILES, { top: 't' });
  if (!netlist) throw new Error('the design does not elaborate');
  const region = regionOf(replayDesign(netlist), { see: ['t'] });
  if (!region.ok) throw new Error(region.error.message);
  const read = readCaptureJson('c.json', writeJson(capture));
  if (!read.ok) throw new Error(read.error.message);
  const { recording, readings } = read.value;
  const traces = recording.traces.filter(({ name }) => name === 't.en' || name === letThroughName('t.clk'));
  const prepared = prepareReplay(region.value, { ...recording, traces }, 'samples', { readings });
  if (!prepared.ok) throw new Error(prepared.error.message);
  return replay(prepared.value);
}

/** The same from a value change dump of the capture, which holds a time for every sample. */
async function replayedFromDump(capture: Capture): Promise<Replay> {
  const { netlist } = elaborate(FILES, { top: 't' });
  if (!netlist) throw new Error('the design does not elaborate');
  const region = regionOf(replayDesign(netlist), { see: ['t'] });
  if (!region.ok) throw new Error(region.error.message);
  const reader = new VcdReader({ stamps: true });
  reader.push(new TextEncoder().encode(writeVcd(capture, '2026-01-01')));
  reader.finish();
  const record = reader.recording('c.vcd');
  const traces = record.traces.filter(({ name }) => name === 't.en' || name === letThroughName('t.clk'));
  // The last time says where the dump ends.
  const prepared = prepareReplay(region.value, { ...record, traces }, { stamps: reader.stamps.slice(0, -1) });
  if (!prepared.ok) throw new Error(prepared.error.message);
  return replay(prepared.value);
}

/** Values of a signal in every sample; null where a bit is not known. */
function values({ recording, samples }: Replay | { recording: Replay['recording']; samples: number }, name: string) {
  const trace = recording.traces.find((one) => one.name === name);
  if (!trace) throw new Error(`no ${name}`);
  return Array.from({ length: samples }, (_, i) => {
    const digits = digitsOf(trace, indexAt(trace, i));
    return digits.includes('x') ? null : Number.parseInt(digits, 2);
  });
}
const recorded = (capture: Capture, name: string) =>
  values({ recording: recordingOf(capture), samples: capture.samples }, name);

describe('a recorder with what replay needs besides', () => {
  beforeEach(load);

  test.each([
    ['where the record begins', 0],
    ['in the middle of the record', 30],
  ])('registers read once, at a trigger %s, make everything known that follows from them', async (_, before) => {
    await set({ 't.en': 1n, 't.rst_n': 1n });
    await order({ way: 'run' });
    const capture = await captured({ when: 'n[3:0] == 9', before }, async () => {});
    expect(capture.readings).toMatchObject([{ how: 'trigger', sample: before + 3 }]);
    expect(capture.readings?.[0]?.values['t.key']).toBe(String(0xa5));
    // More than one read can take, turned by as many edges as there were.
    const turns = (BigInt(capture.readings?.[0]?.values['t.n'] ?? 0) - 7n) % 700n;
    const wide = BigInt.asUintN(700, 0x5an << turns) | (0x5an >> (700n - turns));
    expect(BigInt(capture.readings?.[0]?.values['t.wide'] ?? 0)).toBe(wide);
    const done = await replayed(capture);
    expect(done.disagreements).toEqual([]);
    expect(values(done, 't.sum')).toEqual(recorded(capture, 't.sum'));
    expect(values(done, 't.n').map((n) => (n ?? 0) & 15)).toEqual(recorded(capture, 't.n[3:0]'));
    expect(new Set(values(done, 't.key'))).toEqual(new Set([0xa5]));
    // Nobody read it.
    expect(new Set(values(done, 't.cleared'))).toEqual(new Set([null]));
  });

  test('while the clock is held and let through by and by, the state it stood in is known, and every edge counts', async () => {
    await set({ 't.en': 1n, 't.rst_n': 1n });
    await order({ way: 'step', count: 40 });
    bench.advance(20);
    const capture = await captured({ when: `${letThroughName('t.clk')} == 1`, before: 8 }, async () => {
      await order({ way: 'step', count: 5 });
    });
    const lets = recorded(capture, letThroughName('t.clk'));
    expect(lets.filter((one) => one === 1)).toHaveLength(5);
    expect(lets.indexOf(1)).toBe(8);
    expect(capture.readings?.map(({ how }) => how)).toEqual(['trigger', 'standing']);
    expect(capture.readings?.[1]).toMatchObject({ sample: 0, values: { 't.n': '47', 't.key': String(0xa5) } });
    // What the panel read is enough.
    const alone = { ...capture, readings: (capture.readings ?? []).filter(({ how }) => how === 'standing') };
    const done = await replayed(alone);
    expect(done.disagreements).toEqual([]);
    expect(done.unmatched.names).toEqual([]);
    expect(values(done, 't.sum')).toEqual(recorded(capture, 't.sum'));
    expect(values(done, 't.n').at(-1)).toBe(52);
    // A dump of it says as much of the edges, though nothing of what was read.
    const dump = await replayedFromDump(capture);
    expect(dump.disagreements).toEqual([]);
    expect(values(dump, 't.sum').filter((sum) => sum !== null)).toEqual([]);
    expect(dump.prepared.moments.edgesBefore.filter((set) => set >= 0)).toHaveLength(5);
    // A reset without a clock may have come between the look and the record.
    expect(values(done, 't.cleared')[0]).toBeNull();
  });

  test('what is read behind the end of the record is not taken for a sample of it', async () => {
    await order({ way: 'run' });
    const capture = await captured({ before: 62 }, async () => {});
    expect(capture.readings).toBeUndefined();
  });

  test('steps between arming and the record make nothing of what stood before', async () => {
    await set({ 't.en': 1n, 't.rst_n': 1n });
    const capture = await captured({ when: 'n[3:0] == 3', before: 4 }, async () => {
      await order({ way: 'step', count: 200 });
      bench.advance(50);
      await order({ way: 'run' });
    });
    expect(capture.readings?.map(({ how }) => how)).toEqual(['trigger']);
    const done = await replayed(capture);
    expect(values(done, 't.sum')).toEqual(recorded(capture, 't.sum'));
  });
});
