// Parts as rows and back, what cannot be wired, and descriptions both ways.
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readBoard } from '../constraints/index.ts';
import { partNamed } from '../families/index.ts';
import {
  benchText,
  boardParts,
  checkParts,
  describedBoard,
  KINDS,
  newRow,
  type PartRow,
  partsFromNets,
  partsOf,
  partsOfBench,
  rowsOf,
  wiresOf,
} from './index.ts';

const EMPTY = boardParts.parse({});
const drawing = () => {
  const drawn = partNamed('CV25')?.family.drawing('Q100');
  if (!drawn) throw new Error('no drawing');
  return drawn;
};
const LOCKHOUSE = readFileSync('demo/benches/lockhouse.bench.json', 'utf8');
const wired = (kind: PartRow['kind'], pins: Record<string, string>, more: Partial<PartRow> = {}): PartRow => {
  const row = newRow(kind, []);
  if (!row) throw new Error(kind);
  return { ...row, pins, ...more };
};

/** Rows of any kinds with every wire somewhere. */
const anyRows = fc
  .array(fc.tuple(fc.constantFrom(...KINDS.map(({ id }) => id)), fc.string({ maxLength: 8 }), fc.boolean()), {
    maxLength: 12,
  })
  .map((list) => {
    const rows: PartRow[] = [];
    for (const [kind, label, active] of list) {
      const row = newRow(kind, rows);
      if (!row) continue;
      const pins = Object.fromEntries(wiresOf(kind).map(({ id }, i) => [id, `P${rows.length * 20 + i}`]));
      const hasActive = KINDS.find(({ id }) => id === kind)?.hasActive ?? false;
      const hasLabel = KINDS.find(({ id }) => id === kind)?.hasLabel ?? false;
      rows.push({ ...row, pins, label: hasLabel ? label : '', active: hasActive ? active : true });
    }
    return rows;
  });

describe('parts as rows', () => {
  test('what rows say is what a bench file holds, and the other way round', () => {
    fc.assert(
      fc.property(anyRows, (rows) => {
        const parts = partsOf(rows, EMPTY);
        const sorted = KINDS.flatMap(({ id }) => rows.filter(({ kind }) => kind === id));
        expect(rowsOf(parts)).toEqual(sorted);
        const read = partsOfBench('t', benchText(null, { name: 't', part: 'CV25' }, parts));
        expect(read.ok && read.value).toEqual(parts);
      }),
    );
  });

  test('what an editor has no row for stays as it was: the water, the banks, other fields of the file', () => {
    const read = partsOfBench('lockhouse', LOCKHOUSE);
    if (!read.ok) throw new Error(read.error.message);
    const rows = rowsOf(read.value).filter(({ name }) => name !== 'L3');
    const text = benchText(LOCKHOUSE, { name: 'x', part: 'CV10' }, partsOf(rows, read.value));
    const [before, after] = [LOCKHOUSE, text].map((one) => JSON.parse(one) as { board: { water: object } });
    expect({ ...after, board: null }).toEqual({ ...before, board: null });
    expect(after?.board.water).toEqual(before?.board.water);
    expect(JSON.stringify(after)).not.toContain('"L3"');
  });

  test('new ones are counted on, and of what a board has once there is no second', () => {
    const lamps = [wired('lamp', { pin: 'P1' }), wired('lamp', { pin: 'P2' }, { name: 'L2' })];
    expect(newRow('lamp', lamps)?.name).toBe('L1');
    expect(newRow('serial', [wired('serial', {})])).toBeNull();
  });

  test('a file that is none is refused with its place', () => {
    expect(partsOfBench('b.bench.json', '{').ok).toBe(false);
    const wrong = partsOfBench('b.bench.json', '{"board":{"lamps":[{"name":"L0"}]}}');
    expect(!wrong.ok && wrong.error.message).toMatch(/b\.bench\.json: board\.lamps\.0\.pin/);
  });
});

describe('what cannot be wired', () => {
  const said = (...rows: PartRow[]) =>
    checkParts(rows, drawing()).map(({ row, wire, message }) => `${row} ${wire} ${message}`);

  test('no pin, no such pin, a pin of the supply, one that is used twice', () => {
    expect(said(wired('lamp', {}))).toEqual(['0 pin L0 has no pin yet.']);
    expect(said(wired('keyboard', {}))).toEqual([
      '0 clock K0 has no pin yet for clock and data.',
      '0 data K0 has no pin yet for clock and data.',
    ]);
    expect(said(wired('lamp', { pin: 'P999' }))).toEqual(['0 pin Q100 has no pin P999.']);
    expect(said(wired('lamp', { pin: 'P21' }))[0]).toMatch(/Pin P21 is no user pin: it carries supply/);
    expect(said(wired('lamp', { pin: 'P30' }), wired('button', { pin: 'P30' }))).toEqual([
      '0 pin Pin P30 is used by L0 and B0.',
      '1 pin Pin P30 is used by L0 and B0.',
    ]);
  });

  test('wires that a part can do without may be missing; names are one each', () => {
    expect(said(wired('serial', { tx: 'P30', rx: 'P31' }))).toEqual([]);
    expect(said(wired('lamp', { pin: 'P30' }), wired('lamp', { pin: 'P31' }))[0]).toMatch(/another part called L0/);
    expect(said(wired('keyboard', { clock: 'P1', data: 'P2' }, { name: 'a/b' }))[0]).toMatch(/no slash/);
    expect(said(wired('oscillator', { pin: 'P1' }, { hertz: 0 }))[0]).toMatch(/above 0 Hz/);
  });

  test('the demo’s own board has nothing wrong', () => {
    const read = partsOfBench('lockhouse', LOCKHOUSE);
    expect(read.ok && checkParts(rowsOf(read.value), drawing())).toEqual([]);
  });
});

describe('board descriptions', () => {
  const ABOUT = { name: 'Mine', part: 'CV25', banks: { '0': 3.3 } };

  test('each wire is a net by its usual name, oscillators by their frequency, and the file can be read', () => {
    const rows = [
      wired('lamp', { pin: 'P40' }),
      wired('oscillator', { pin: 'P2' }, { hertz: 25e6 }),
      wired('serial', { tx: 'P30', rx: 'P31' }),
    ];
    const board = describedBoard(ABOUT, rows);
    expect(board.nets).toEqual([
      { net: 'LAMP0', pin: 'P40' },
      { net: 'UART_TX', pin: 'P30' },
      { net: 'UART_RX', pin: 'P31' },
    ]);
    expect(board.oscillators).toEqual([{ net: 'CLK0', pin: 'P2', hertz: 25e6 }]);
    const read = readBoard('mine', JSON.stringify(board));
    expect(read.ok && read.value).toEqual(board);
  });

  test('parts that are described come back from their description', () => {
    fc.assert(
      fc.property(anyRows, (rows) => {
        // Of several displays the nets are told apart by number alone, which leads nowhere.
        const several = rows.filter(
          ({ kind }, i) => wiresOf(kind).length === 1 || rows.findIndex((row) => row.kind === kind) === i,
        );
        const back = partsFromNets(describedBoard(ABOUT, several));
        expect(back.left).toEqual([]);
        const pinsOf = (list: readonly PartRow[]) =>
          list.flatMap(({ kind, pins }) => Object.entries(pins).map(([id, pin]) => `${kind} ${id} ${pin}`)).sort();
        expect(pinsOf(back.rows)).toEqual(pinsOf(several));
      }),
    );
  });

  test('nets as boards call them become parts; a name ending in N is meant low; what is not known is left', () => {
    const nets = ['USER_LED3', 'KEY1_N', 'DIP0', 'SEG_A', 'SEG_DP', 'AN0', 'TXD', 'FLASH_CS'].map((net, i) => ({
      ...{ net, pin: `P${i}` },
    }));
    const { rows, left } = partsFromNets({ nets, oscillators: [{ net: 'OSC', pin: 'P50', hertz: 5e6 }] });
    expect(left).toEqual(['FLASH_CS']);
    expect(rows.map(({ kind, name, active, pins }) => [kind, name, active, pins])).toEqual([
      ['lamp', 'L3', true, { pin: 'P0' }],
      ['button', 'B1', false, { pin: 'P1' }],
      ['switch', 'S0', true, { pin: 'P2' }],
      ['digits', 'digits', true, { s0: 'P3', s7: 'P4', c0: 'P5' }],
      ['serial', 'line', true, { tx: 'P6' }],
      ['oscillator', 'X0', true, { pin: 'P50' }],
    ]);
  });

  test('the demo’s description leads to its bench’s lamps, buttons, switches, digits and line', () => {
    const board = readBoard('l', readFileSync('demo/lockhouse/lockhouse.board.json', 'utf8'));
    if (!board.ok) throw new Error(board.error.message);
    const read = partsOfBench('l', LOCKHOUSE);
    if (!read.ok) throw new Error(read.error.message);
    const pins = (rows: readonly PartRow[]) => rows.flatMap((row) => Object.values(row.pins)).sort();
    const found = partsFromNets(board.value);
    expect(pins(found.rows)).toEqual(pins(rowsOf(read.value)));
  });
});
