// One table of vectors, run three ways: event-driven simulation, the fabric alone, and the hardware over JTAG, its clock
// held between rows.
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { fabricRows } from '../tests/support/fabric-rows.ts';
import { MADE_PART, type MadeBoard, madeBoard } from '../tests/support/made-board.ts';
import { runTable, tableCores } from '../core/operations/index.ts';
import { planForTable, type ProbeMap } from '../core/probes/index.ts';
import { differencesOf, type HardwareRun, runOnHardware, runVectors } from '../core/vectors/index.ts';
import { asFault } from './faults.ts';

interface Case {
  readonly top: string;
  readonly text: string;
  readonly table: string;
  /** Frequency of its clock and of TCK. */
  readonly hz?: number;
  readonly tckHz?: number;
}

const source = (name: string) => readFileSync(`tests/designs/${name}`, 'utf8');

const ADDER: Case = {
  top: 'adder',
  text: 'module adder(input [2:0] a, b, output [3:0] s); assign s = a + b; endmodule',
  table: `a,b,=s\n${Array.from({ length: 64 }, (_, i) => `${i >> 3},${i & 7},${(i >> 3) + (i & 7)}`).join('\n')}\n`,
};

const FLIP_FLOP = `module ff(input clk, rst, en, input [7:0] d, output reg [7:0] q = 0, output any);
  always @(posedge clk) if (rst) q <= 0; else if (en) q <= d; assign any = |q & en; endmodule`;

/** What a flip-flop with enable and reset does, by hand. */
function flipFlopTable(rows: readonly { rst: boolean; en: boolean; d: number; cycles: number }[]): string {
  let q = 0;
  const lines = rows.map(({ rst, en, d, cycles }) => {
    if (cycles > 0) q = rst ? 0 : en ? d : q;
    return `${Number(rst)},${Number(en)},${d},${cycles},${q},${Number(q > 0 && en)}`;
  });
  return `rst,en,d,cycles,=q,=any\n${lines.join('\n')}\n`;
}

// FIPS 180-4, example of SHA-256; the one block is "abc", the bit 1, zeros, the length 24.
const SHA256: Case = {
  top: 'sha256',
  text: source('sha256.v'),
  table:
    `rst,start,block,cycles,=done,=digest\n1,0,,1,0,\n0,1,0x61626380${'0'.repeat(112)}00000018,1,0,\n` +
    ',0,,65,1,0xba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad\n',
};

// FIPS 197, appendix C.1
const AES128: Case = {
  top: 'aes128',
  text: source('aes128.v'),
  table:
    'start,key,plain,cycles,=done,=cipher\n1,0x000102030405060708090a0b0c0d0e0f,0x00112233445566778899aabbccddeeff,1,0,\n' +
    '0,,,10,1,0x69c4e0d86a7b0430d8cdb78070b4c55a\n,,,1,0,0x69c4e0d86a7b0430d8cdb78070b4c55a\n',
};

/** The same with four S-boxes: five clocks a round, so that its panel finds room beside it. */
const AES128_SMALL: Case = {
  top: 'aes128_small',
  text: source('aes128_small.v'),
  table: AES128.table.replace('0,,,10,1,', '0,,,50,1,'),
};

const filesOf = ({ top, text }: Case) => [{ name: `${top}.v`, text }];
const tableOf = ({ top, table }: Case) => ({ name: `${top}.csv`, text: table });

/** A design built for a table, on a board with its clock. */
function onBoard(one: Case): MadeBoard {
  const { top, hz = 12e6, tckHz = 10e6 } = one;
  const planned = planForTable(filesOf(one), tableOf(one), { top });
  if (!planned.ok) throw new Error(planned.error.message);
  const { plan, clock } = planned.value;
  return madeBoard({ top, files: filesOf(one), plan, clocks: clock === null ? {} : { [clock]: hz }, tckHz });
}

async function onHardware(one: Case, options: Parameters<typeof runTable>[2] = {}): Promise<HardwareRun> {
  const { chain, map, load } = onBoard(one);
  await load();
  const ran = await runTable(chain, { part: MADE_PART, device: null, map, table: tableOf(one) }, options);
  if (!ran.ok) throw new Error(ran.error.message);
  return ran.value;
}

async function onFabric(one: Case): Promise<HardwareRun> {
  const { target, vectors, clock } = fabricRows(filesOf(one), tableOf(one), one.top);
  const ran = await runOnHardware(vectors, target, { clock });
  if (!ran.ok) throw new Error(ran.error.message);
  return ran.value;
}

function inEvents(one: Case) {
  const ran = runVectors(filesOf(one), tableOf(one), { top: one.top });
  if (!ran.ok) throw new Error(ran.error.message);
  return ran.value;
}

describe('a table of vectors', () => {
  test.each([ADDER, SHA256, AES128_SMALL].map((one) => [one.top, one] as const))(
    '%s passes in events, in the fabric and on the hardware',
    async (_, one) => {
      const [events, fabric, hardware] = [inEvents(one), await onFabric(one), await onHardware(one)];
      for (const { failures, passed } of [events, fabric, hardware])
        expect({ failures, passed }).toEqual({ failures: [], passed: events.vectors.rows.length });
      expect(differencesOf(events, hardware)).toEqual([]);
    },
    60_000,
  );

  test('AES-128 with a round a clock passes in events and in the fabric; with a panel it is larger than any part', async () => {
    const [events, fabric] = [inEvents(AES128), await onFabric(AES128)];
    for (const { failures } of [events, fabric]) expect(failures).toEqual([]);
    expect(differencesOf(events, fabric)).toEqual([]);
  });

  test.each([
    [12e6, 10e6],
    [1e6, 20e6],
    [48e6, 1e6],
  ])('a flip-flop with enable at a clock of %d Hz and TCK of %d Hz, any rows', async (hz, tckHz) => {
    const row = fc.record({
      rst: fc.boolean(),
      en: fc.boolean(),
      d: fc.integer({ min: 0, max: 255 }),
      cycles: fc.constantFrom(0, 1, 1, 1, 2, 7, 300),
    });
    const empty = { top: 'ff', text: FLIP_FLOP, table: flipFlopTable([]), hz, tckHz };
    const { chain, map, load } = onBoard(empty);
    await fc.assert(
      fc.asyncProperty(fc.array(row, { minLength: 1, maxLength: 25 }), async (rows) => {
        await load();
        const one = { ...empty, table: flipFlopTable(rows) };
        const ran = await runTable(chain, { part: MADE_PART, device: null, map, table: tableOf(one) });
        expect(ran.ok && ran.value.failures).toEqual([]);
        expect(ran.ok && ran.value.passed).toBe(rows.length);
      }),
      { numRuns: 8 },
    );
  });

  test('one value that is wrong is told with its row, and the first is enough where that is wanted', async () => {
    const wrong = { ...ADDER, table: ADDER.table.replace('3,4,7', '3,4,6').replace('5,5,10', '5,5,11') };
    const all = await onHardware(wrong);
    expect(all).toMatchObject({ passed: 62, failed: 2, stopped: null });
    expect(all.failures).toEqual([
      { row: 29, port: 's', expected: '6', actual: '7' },
      { row: 46, port: 's', expected: '11', actual: '10' },
    ]);
    expect(await onHardware(wrong, { stopAtFirst: true })).toMatchObject({
      passed: 28,
      failed: 1,
      stopped: 'difference',
    });
  });

  test('open digits of inputs come from a number, the same for the same; what cannot be driven is refused', async () => {
    const open = { ...ADDER, table: 'a,b,=s\n0bxxx,0b0x1,\n0bxxx,0bxxx,\n' };
    const sets = async (seed: number) => (await onHardware(open, { seed })).rows.map(({ set }) => set);
    const first = await sets(7);
    expect(await sets(7)).toEqual(first);
    expect(await sets(8)).not.toEqual(first);
    for (const [i, { set, actual }] of (await onHardware(open, { seed: 7 })).rows.entries()) {
      expect(Number(actual[2]), `row ${i + 1}`).toBe(Number(set[0]) + Number(set[1]));
      if (i === 0) expect(Number(set[1]) & 5).toBe(1);
    }
    const { chain, map, load } = onBoard(ADDER);
    await load();
    const floating = { name: 't.csv', text: 'a,b,=s\n0bz00,1,1\n' };
    const refused = await runTable(chain, { part: MADE_PART, device: null, map, table: floating });
    expect(refused.ok ? null : refused.error.code).toBe('floating-input');
  });
});

describe('trouble while a table runs', () => {
  const rows = Array.from({ length: 6 }, (_, i) => ({ rst: false, en: true, d: 17 * i, cycles: 1 }));
  const one: Case = { top: 'ff', text: FLIP_FLOP, table: flipFlopTable(rows) };
  let board: MadeBoard;
  beforeAll(() => {
    board = onBoard(one);
  });
  const request = (table = tableOf(one)) => ({ part: MADE_PART, device: null, map: board.map, table });

  test('the rows that were run are kept where it is cancelled', async () => {
    await board.load();
    let done = 0;
    const watch = { report: () => void done++, cancelled: () => done >= 3 };
    const ran = await runTable(board.chain, request(), { watch });
    expect(ran.ok && ran.value).toMatchObject({ passed: 3, failed: 0, stopped: 'cancelled' });
  });

  test.each([
    ['clock-stopped', 'clock-stands'],
    ['cable-unplugged', 'link-lost'],
  ] as const)('%s in the middle: told, with the rows so far', async (fault, code) => {
    await board.load();
    const ran = await runTable(board.chain, request(), {
      onRow: ({ row }) => {
        if (row === 2) board.bench.setFault(asFault(fault), true);
      },
    });
    board.bench.setFault(asFault(fault), false);
    expect(ran.ok && ran.value.rows.length).toBe(2);
    expect(ran.ok && ran.value.stopped).toMatchObject({ code });
  });

  test('another build, columns without a port, and a build without a stepper are told before anything moves', async () => {
    await board.load();
    const other: ProbeMap = { ...board.map, fingerprint: 'f'.repeat(32) };
    const foreign = await runTable(board.chain, { ...request(), map: other });
    expect(foreign.ok ? null : foreign.error.code).toBe('fingerprint-differs');
    const columns = tableCores({ map: board.map, table: { name: 't.csv', text: 'en,nothing,=q\n1,1,0\n' } });
    expect(columns.ok ? null : columns.error.message).toContain('"nothing"');
    const without = { ...board.map, cores: board.map.cores.filter(({ kind }) => kind !== 'stepper') };
    const unheld = tableCores({ map: without, table: tableOf(one) });
    expect(unheld.ok ? null : unheld.error.code).toBe('no-stepper');
  });
});
