// A part is sold in several packages: chosen in the project, told in the bitstream, found on the board by measuring.
import { describe, expect, test } from 'vitest';
import { chainOn } from '../tests/support/chain-on.ts';
import { crc32 } from '../core/bits/index.ts';
import { BoundaryScan, measureBoundary } from '../core/boundary/index.ts';
import { build, digestOf, editsBetween, inputDigests, type Project, writeProjectFile } from '../core/build/index.ts';
import { partNamed, readBitstream } from '../core/families/index.ts';
import { ScanQueue } from '../core/jtag/index.ts';
import { checkLoad, describedChain, loadBitstream } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { emptyPlan } from '../core/probes/index.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

const SOURCE = 'module top(input button, output lamp); assign lamp = ~button; endmodule\n';

function project(packageName: string | undefined, pins: string, part = 'CV25'): Project {
  return {
    file: {
      ...({ format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 't', part } as const),
      ...{ pins: 'pins.csv', clocks: {}, ...(packageName === undefined ? {} : { package: packageName }) },
    },
    files: [
      { name: 't.v', text: SOURCE },
      { name: 'pins.csv', text: `port,pin\n${pins}` },
    ],
  };
}

const built = (packageName: string | undefined, pins: string, part?: string) =>
  build({ project: project(packageName, pins, part), plan: emptyPlan });

function board(chain: readonly object[]) {
  const file = readBenchFile(JSON.stringify({ chain }), 'x.bench.json');
  if (!file.ok) throw new Error(file.error.message);
  const bench = new Bench(file.value, new Map());
  return { bench, cable: new BenchCable(bench) };
}

describe('a project', () => {
  test('has its pins checked for the package it names, else for the usual one of its part', () => {
    expect(built('B196', 'button,A1\nlamp,A2\n').pinIssues).toEqual([]);
    expect(built(undefined, 'button,P1\nlamp,P2\n').pinIssues).toEqual([]);
    expect(built('B196', 'button,P20\nlamp,A2\n').pinIssues.map(({ code, message }) => [code, message])).toContainEqual(
      ['pin-unknown', 'Pin "P20" is not bonded out: the package B196 of a CV25 has no such pin.'],
    );
    expect(built(undefined, 'button,A1\nlamp,P2\n').pinIssues[0]?.message).toMatch(/the package Q100 of a CV25/);
  });

  test('is told when the board it names carries another package', () => {
    const on = (board: object) => {
      const { file, files } = project('B196', 'button,A1\nlamp,A2\n');
      const text = JSON.stringify({ format: 'nimble-board', version: 1, name: 'Desk', part: 'CV25', ...board });
      const named = {
        file: { ...file, board: 'desk.board.json' },
        files: [...files, { name: 'desk.board.json', text }],
      };
      return build({ project: named, plan: emptyPlan }).messages.flatMap(({ code, message }) =>
        code === 'board-package' ? [message] : [],
      );
    };
    expect(on({ package: 'B196' })).toEqual([]);
    expect(on({ part: 'CV60', package: 'Q100' })).toEqual([]);
    expect(on({})).toEqual(['The project is built for a CV25 in a B196; on Desk it comes in a Q100.']);
  });

  test('cannot name a package that its part does not come in', () => {
    const { messages, bitstream } = built('Q64', 'button,P1\n');
    expect(messages.map(({ code, message }) => [code, message])).toContainEqual([
      'unknown-package',
      'A CV25 does not come in a Q64. It comes in: Q100, B196.',
    ]);
    expect(bitstream).toBeNull();
  });

  test('is another one for the build with another package, and the edit is named; one of before stays as it was', () => {
    const digests = (packageName: string | undefined) => {
      const { file, files } = project(packageName, 'button,A1\n');
      const digested = files.map(({ name, text }) => ({ name, digest: digestOf(text) }));
      return inputDigests(writeProjectFile(file), digested, emptyPlan);
    };
    expect(editsBetween(digests('B196'), digests('Q100'))).toEqual([
      { what: 'package', change: 'changed', touches: 'everything' },
    ]);
    expect(Object.keys(digests(undefined))).not.toContain('package');
    const [small, large] = [built('Q100', ''), built('B196', '')];
    expect(small.fingerprint).not.toBe(large.fingerprint);
  });

  test('is built for every part in every package it comes in', () => {
    for (const [part, packages] of [
      ['CV10', ['Q64', 'Q100']],
      ['CV25', ['Q100', 'B196']],
      ['CV25S', ['Q100', 'B196']],
      ['CV60', ['B196', 'Q100']],
    ] as const) {
      expect(partNamed(part)?.packages).toEqual(packages);
      for (const name of packages) {
        const read = readBitstream(built(name, '', part).bitstream ?? new Uint8Array(0));
        expect(read).toMatchObject({ ok: true, value: { part, package: name } });
      }
    }
  });
});

describe('a bitstream', () => {
  const read = readBitstream(built('B196', 'button,A1\nlamp,A2\n').bitstream ?? new Uint8Array(0));
  if (!read.ok) throw new Error(read.error.message);
  const context = { buildPrint: null, stale: [], madeAt: null, sourcesSavedAt: null, running: null };
  const says = (boardPart: { part: string; package: string | null }) =>
    checkLoad(read.value, null, null, null, { ...context, boardPart }).find(({ name }) => name === 'package');

  test('for another package than the board carries is stopped before the first bit', () => {
    expect(says({ part: 'CV25', package: 'B196' })).toMatchObject({ state: 'pass' });
    expect(says({ part: 'CV25', package: null })).toEqual({
      name: 'package',
      state: 'stop',
      message: 'It is for package B196, the board carries Q100.',
    });
  });

  test('of version 1 does not say its package, and is read', () => {
    const header = new TextEncoder().encode(
      JSON.stringify({ part: 'CV10', top: 'top', fingerprint: '0'.repeat(32), streamBytes: 2 }),
    );
    const bytes = new Uint8Array(12 + header.length + 4 + 2);
    const view = new DataView(bytes.buffer);
    bytes.set([0x4e, 0x42, 0x49, 0x54, 0x53, 0x00]);
    view.setUint16(6, 1);
    view.setUint32(8, header.length);
    bytes.set(header, 12);
    view.setUint32(12 + header.length, crc32(bytes.subarray(0, 12 + header.length)));
    expect(readBitstream(bytes)).toMatchObject({ ok: true, value: { part: 'CV10', package: null, top: 'top' } });
    view.setUint16(6, 3);
    expect(readBitstream(bytes)).toMatchObject({
      error: {
        code: 'bitstream-version',
        message: 'This bitstream has format version 3; versions 1 and 2 are read here.',
      },
    });
  });
});

describe('on a board', () => {
  const chain = [
    { kind: 'generic', irLength: 9 },
    { kind: 'corvane', part: 'CV25', package: 'B196' },
    { kind: 'corvane', part: 'CV10', package: 'Q100' },
    { kind: 'corvane', part: 'CV10' },
    { kind: 'sprig' },
  ];
  const answers = [
    { index: 0, idcode: null, irLength: 9 },
    { index: 1, idcode: 0x1c025ffd, part: 'CV25' },
  ];

  test('the package is found by the length of the boundary register, and the pins are its pins', async () => {
    const { bench, cable } = board(chain);
    const session = chainOn(cable, { memory: { answers, described: [] } });
    const read = readBitstream(built('B196', 'button,A1\nlamp,A2\n').bitstream ?? new Uint8Array(0));
    if (!read.ok) throw new Error(read.error.message);
    expect(await loadBitstream(session, read.value, 1, unwatched)).toMatchObject({ value: { done: true } });
    const devices = await describedChain(session, []);
    expect(devices?.map((device) => ('packageName' in device ? device.packageName : device.irLength))).toEqual([
      9,
      'B196',
      'Q100',
      'Q64',
      'Q64',
    ]);
    const scan = new BoundaryScan(new ScanQueue(cable), devices ?? []);
    const levels = await scan.sample();
    const at = (pin: string) => levels.find((one) => one.place === 1 && one.pin === pin);
    // The design reads an input that nothing drives as 0 and inverts it; the pad itself is held at 1.
    expect([at('A1'), at('A2')]).toMatchObject([
      { level: 1, driven: false },
      { level: 1, driven: true },
    ]);
    await scan.release();
    // Looking did not disturb the design.
    expect(bench.panel(1)).toBeDefined();
    expect((await chainOn(cable, { memory: { answers, described: [] } }).rescan()).devices).toHaveLength(5);
  });

  test('a register that is longer than any package has is not taken for one', async () => {
    const { cable } = board([{ kind: 'corvane', part: 'CV60' }]);
    const sample = { length: 6, bytes: Uint8Array.of(0b000010) };
    const measured = (most: number) => measureBoundary(new ScanQueue(cable), [6], { place: 0, sample, most });
    expect([await measured(450), await measured(600), await measured(449)]).toEqual([450, 450, null]);
  });

  test('a bench cannot hold a part in a package it does not come in', () => {
    const read = readBenchFile(JSON.stringify({ chain: [{ kind: 'corvane', part: 'CV10', package: 'B196' }] }), 'x');
    expect(read.ok ? '' : read.error.message).toMatch(/chain\.0: the part does not come in this package/);
  });
});
