import { benchHands } from './cable.ts';
import { scanChain } from '../core/board/scan.ts';
// The same board parts at every place of chains of every make-up: framing must hold whatever stands before and behind.
import { chainOn } from '../tests/support/chain-on.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { build, type BuildResult, type Project } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { captureNow, drive, keepBitstream, loadBitstream, rehearseBoot } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { valueAt } from '../tests/support/captured.ts';
import type { BenchFile } from './bench-file.ts';
import { Bench, BenchCable } from './index.ts';

const COUNTER = `module top(input clk, output [7:0] lamp);
  reg [15:0] count = 0;
  wire [7:0] free;
  always @(posedge clk) count <= count + 1;
  assign lamp = count[15:8] ^ free;
endmodule`;

const project: Project = {
  file: {
    format: 'nimble-project',
    version: 3,
    grade: 2,
    accepted: [],
    name: 't',
    part: 'CV25',
    pins: 'pins.csv',
    clocks: { clk: 7e6 },
  },
  files: [
    { name: 't.v', text: COUNTER },
    { name: 'pins.csv', text: 'clk,P1\nlamp[0],P26\n' },
  ],
};
const built: BuildResult = build({
  project,
  plan: {
    recorders: [{ name: 'r', clock: 'top.clk', depth: 64, signals: ['top.count'] }],
    panels: [{ name: 'p', clock: 'top.clk', levers: ['top.free'], gauges: ['top.free', 'top.count'] }],
  },
});
const read = readBitstream(built.bitstream ?? new Uint8Array(0));
if (!read.ok || !built.probes) throw new Error('does not build');
const bitstream = read.value;
const map = built.probes;

type Other = BenchFile['chain'][number];
const other = fc.constantFrom<Other>(
  { kind: 'sprig' },
  { kind: 'corvane', part: 'CV10' },
  { kind: 'corvane', part: 'CV60' },
);

function benchOf(toTdo: readonly Other[], toTdi: readonly Other[]): { bench: Bench; cable: BenchCable; index: number } {
  const index = toTdo.length;
  const bench = new Bench({
    format: 'nimble-bench',
    version: 1,
    name: 't',
    tckHz: 10e6,
    referenceVolts: 3.3,
    cableNanoseconds: 18,
    nets: [],
    faults: [],
    chain: [...toTdo, { kind: 'corvane', part: 'CV25', flash: 'QF32' }, ...toTdi],
    board: {
      fpga: index,
      banks: {},
      oscillators: [{ name: 'X', pin: 'P1', hz: 7e6 }],
      ...{ lamps: [], buttons: [], switches: [], displays: [], keyboards: [], sensors: [] },
    },
  });
  return { bench, cable: new BenchCable(bench), index };
}

const neighbours = fc.tuple(fc.array(other, { maxLength: 4 }), fc.array(other, { maxLength: 4 }));

describe('at any place in any chain', () => {
  test('scan, load, capture and drive work', async () => {
    await fc.assert(
      fc.asyncProperty(neighbours, fc.bigInt(0n, 255n), async ([toTdo, toTdi], value) => {
        const { cable, index } = benchOf(toTdo, toTdi);
        const scan = await scanChain(chainOn(cable));
        expect(scan.problems).toEqual([]);
        expect(scan.devices).toHaveLength(toTdo.length + 1 + toTdi.length);
        const loaded = await loadBitstream(chainOn(cable), bitstream, null, unwatched);
        expect(loaded.ok && loaded.value).toMatchObject({ done: true, device: index, fingerprint: built.fingerprint });
        const captured = await captureNow(chainOn(cable), {
          part: 'CV25',
          device: null,
          map,
          recorder: null,
          when: 'count == 0xabcd',
          before: 20,
          tckHz: 10e6,
          clocks: { clk: 7e6 },
        });
        if (!captured.ok) throw new Error(captured.error.message);
        const { capture } = captured.value;
        expect(capture.sampleRate).toBe(7e6);
        const [signal] = capture.signals;
        if (signal) for (let i = 0; i < 64; i++) expect(valueAt(capture, signal, i)).toBe(BigInt(0xabcd - 20 + i));
        const driven = await drive(chainOn(cable), { part: 'CV25', device: null, map, set: { 'top.free': value } });
        expect(driven.ok && driven.value.reading.gauges['top.free']).toBe(value);
        expect(driven.ok && driven.value.reading.levers['top.free']).toEqual({ value, released: false });
      }),
      { numRuns: 12 },
    );
  });

  test('the flash is written and the board boots from it', async () => {
    await fc.assert(
      fc.asyncProperty(neighbours, async ([toTdo, toTdi]) => {
        const { bench, cable, index } = benchOf(toTdo, toTdi);
        const kept = await keepBitstream(chainOn(cable), bitstream, null, unwatched);
        expect(kept.ok && kept.value).toMatchObject({
          chip: 'Quoin QF32',
          device: index,
          sectorsErased: 0,
          verified: true,
        });
        const memory = bench.flashContents.get(index) as Uint8Array;
        expect(Buffer.from(memory.subarray(0, bitstream.stream.length)).equals(Buffer.from(bitstream.stream))).toBe(
          true,
        );
        expect(memory.subarray(11 << 15).every((byte) => byte === 0xff)).toBe(true);
        const boot = await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), 'CV25', null, unwatched);
        expect(boot.ok && boot.value).toMatchObject({ done: true, fingerprint: built.fingerprint });
      }),
      { numRuns: 4 },
    );
  });

  test('the running design goes on while its flash is written', async () => {
    const { bench, cable } = benchOf([{ kind: 'sprig' }], []);
    await loadBitstream(chainOn(cable), bitstream, null, unwatched);
    const count = async () => {
      const driven = await drive(chainOn(cable), { part: 'CV25', device: null, map, set: {} });
      if (!driven.ok) throw new Error(driven.error.message);
      return driven.value.reading.gauges['top.count'] as bigint;
    };
    await drive(chainOn(cable), { part: 'CV25', device: null, map, set: { 'top.free': 9n } });
    await keepBitstream(chainOn(cable), bitstream, null, unwatched);
    const [first, second] = [await count(), await count()];
    expect(first).not.toBe(second);
    const driven = await drive(chainOn(cable), { part: 'CV25', device: null, map, set: {} });
    expect(driven.ok && driven.value.reading.levers['top.free']?.value).toBe(9n);
    expect(bench.panel().done).toEqual({ 1: true });
  });

  test('two devices that could be meant are not chosen between; one that is named is taken', async () => {
    const { cable } = benchOf([{ kind: 'corvane', part: 'CV25' }], []);
    const codes = await Promise.all(
      [null, 0, 1].map(async (device) => {
        const loaded = await loadBitstream(chainOn(cable), bitstream, device, unwatched);
        return loaded.ok ? loaded.value.device : loaded.error.code;
      }),
    );
    expect(codes).toEqual(['several-devices', 0, 1]);
  });
});
