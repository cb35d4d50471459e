// Another family of FPGAs goes the whole way without a word of the product being changed: the seam holds.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { TapDevice } from '../../bench/tap.ts';
import { bigIntOf, sliceBits } from '../../core/bits/index.ts';
import { ChainSession } from '../../core/board/index.ts';
import { build } from '../../core/build/index.ts';
import { FAMILIES, partNamed, readBitstream } from '../../core/families/index.ts';
import {
  captureNow,
  drive,
  loadAsSvf,
  loadBitstream,
  playSvf,
  reachFlash,
  readBoardState,
} from '../../core/operations/index.ts';
import { unwatched } from '../../core/progress.ts';
import { PEBBLE, pebble } from '../support/pebble.ts';
import { PebbleCable } from '../support/pebble-device.ts';

const families = [...FAMILIES, pebble];
const SOURCE = `module top(input clk, output [3:0] lamp);
  reg [11:0] count = 0;
  wire [3:0] free;
  always @(posedge clk) count <= count + 1;
  assign lamp = count[11:8] ^ free;
endmodule`;

function built(pins = 'clk,X0,,6\nlamp[0],X1,,6\n', part: string = PEBBLE.name) {
  return build({
    families,
    project: {
      file: {
        ...{ format: 'nimble-project', version: 3, grade: 5, accepted: [], name: 't', part },
        ...{ pins: 'pins.csv', clocks: { clk: 1e6 } },
      } as const,
      files: [
        { name: 't.v', text: SOURCE },
        { name: 'pins.csv', text: `port,pin,standard,drive\n${pins}` },
      ],
    },
    plan: {
      recorders: [{ name: 'r', clock: 'top.clk', depth: 32, signals: ['top.count'] }],
      panels: [{ name: 'p', clock: 'top.clk', levers: ['top.free'], gauges: ['top.free'] }],
    },
  });
}

/** An unknown device of five instruction bits towards TDO, one of seven towards TDI, both without IDCODE. */
function onBoard() {
  const cable = new PebbleCable({ before: [new TapDevice(5, null)], after: [new TapDevice(7, null)] });
  const answers = [
    { index: 0, idcode: null, irLength: 5 },
    { index: 2, idcode: null, irLength: 7 },
  ];
  return { cable, chain: ChainSession.on({ cable, hands: {}, memory: { answers, described: [] }, families }) };
}

const design = () => {
  const result = built();
  const read = readBitstream(result.bitstream ?? new Uint8Array(0), families);
  if (!read.ok || !result.probes) throw new Error(JSON.stringify(result.messages));
  return { bitstream: read.value, map: result.probes, result };
};

describe('a second family', () => {
  test('is built for with its own pins, cells and grades', () => {
    const { result, bitstream } = design();
    expect(bitstream).toMatchObject({ part: 'PB4', package: 'T8', top: 'top' });
    expect(result.resources).toMatchObject({ lutsOfPart: 4000, blockRamsOfPart: 64 });
    // One block RAM of 128 by 4 for each four bits of the record.
    expect(result.memories.find(({ kind }) => kind === 'block')?.blockRams).toBe(3);
    const slow = result.timing?.clocks.find(({ clock }) => clock.endsWith('clk'))?.highest ?? 0;
    expect(slow).toBeGreaterThan(1e6);
    // What it does not have is said of it, not of another family.
    expect(built('clk,P1,,6\n').pinIssues.map(({ message }) => message)).toContainEqual(
      'Pin "P1" is not bonded out: the package T8 of a PB4 has no such pin.',
    );
    expect(built('clk,X0,LVCMOS 2.5 V,6\n').pinIssues[0]?.message).toBe(
      '"LVCMOS 2.5 V" is no I/O standard. Known: LVCMOS 3.3 V.',
    );
    expect(readBitstream(result.bitstream ?? new Uint8Array(0))).toMatchObject({ error: { code: 'unknown-part' } });
  });

  test('is recognised between strangers, loaded, asked, captured from and driven', async () => {
    const { bitstream, map } = design();
    const { chain, cable } = onBoard();
    const scan = await chain.rescan();
    expect(scan.devices.map(({ part, irLength }) => [part, irLength])).toEqual([
      [null, 5],
      ['PB4', 4],
      [null, 7],
    ]);
    const empty = await readBoardState(chain, 'PB4', null);
    expect(empty).toMatchObject({ ok: true, value: { device: 1, fingerprint: null, status: { done: false } } });
    const loaded = await loadBitstream(chain, bitstream, null, unwatched);
    expect(loaded).toMatchObject({ ok: true, value: { done: true, fingerprint: bitstream.fingerprint, attempts: 1 } });
    expect(cable.device.fabric).not.toBeNull();
    const on = { part: 'PB4', device: null, map };
    const taken = await captureNow(chain, {
      ...on,
      recorder: 'r',
      when: 'top.count == 100',
      before: 4,
      tckHz: 1e6,
      clocks: { clk: 1e6 },
    });
    if (!taken.ok) throw new Error(taken.error.message);
    const { data, samples, sampleBits, triggerIndex } = taken.value.capture;
    const counts = Array.from({ length: samples }, (_, i) =>
      Number(bigIntOf(sliceBits(data, i * sampleBits, sampleBits))),
    );
    expect([sampleBits, triggerIndex]).toEqual([12, 4]);
    expect(counts).toEqual(Array.from({ length: 32 }, (_, i) => 96 + i));
    const driven = await drive(chain, { ...on, set: { 'top.free': 9n } });
    expect(driven).toMatchObject({ ok: true, value: { reading: { gauges: { 'top.free': 9n } } } });
  });

  test('a stream that is damaged on the way ends in its own words, tried twice', async () => {
    const { bitstream } = design();
    const { chain } = onBoard();
    const stream = bitstream.stream.slice();
    stream[40] = (stream[40] as number) ^ 4;
    const loaded = await loadBitstream(chain, { ...bitstream, stream }, null, unwatched);
    expect(loaded).toMatchObject({
      ok: true,
      value: { done: false, status: { crcError: true }, problem: { code: 'sum' } },
    });
  });

  test('its load is written as a file, and the file plays', async () => {
    const { bitstream } = design();
    const { cable } = onBoard();
    let text = '';
    const written = loadAsSvf(bitstream, { irLengths: [5, 4, 7], index: 1, families }, (piece) => {
      text += piece;
    });
    expect(written.ok).toBe(true);
    const played = await playSvf(cable, [new TextEncoder().encode(text)], unwatched);
    expect(played).toMatchObject({ ok: true, mismatches: [] });
    expect(cable.device.fabric).not.toBeNull();
  });

  test('it has no flash, and says so', async () => {
    const { chain } = onBoard();
    expect(await reachFlash(chain, 1, 'PB4')).toMatchObject({ error: { code: 'no-flash' } });
  });
});

test('nothing outside the families and the bench names a part or a family', () => {
  const files = execFileSync('git', ['ls-files', 'core', 'server', 'app', 'ui', 'cli', 'pod'], { encoding: 'utf8' })
    .split('\n')
    .filter((file) => /\.(ts|tsx)$/.test(file) && !/\.test\.tsx?$|^core\/families\//.test(file));
  const names = new RegExp(
    `\\b(${FAMILIES.flatMap(({ name, devices }) => [name, ...devices.map((d) => d.name)]).join('|')})\\b`,
    'i',
  );
  expect(files.length).toBeGreaterThan(300);
  expect(files.filter((file) => names.test(readFileSync(file, 'utf8')))).toEqual([]);
  expect(partNamed(PEBBLE.name)).toBeUndefined();
});
