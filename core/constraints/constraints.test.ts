import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { partNamed, type Part } from '../families/index.ts';
import { checkPins, offerPins, parsePinTable, type PortNeed, readBoard, writePinTable } from './index.ts';

const PART = partNamed('CV25') as Part;
const PORTS: PortNeed[] = [
  { name: 'clk', width: 1, direction: 'input', clock: true },
  { name: 'led', width: 2, direction: 'output', clock: false },
];
const check = (table: string, supplies: Record<string, number> = {}) =>
  checkPins(parsePinTable(table), PORTS, { part: PART, packageName: 'Q100' }, supplies);
const codes = (table: string, supplies?: Record<string, number>) =>
  check(table, supplies).issues.map((i) => `${i.code}/${i.column}/${i.entry}`);

describe('the ports table', () => {
  test('columns by name in any order, tabs or commas, defaults for what is left out', () => {
    const [first, second] = parsePinTable('Pin\tPort\tI/O standard\nP1\tclk\tLVCMOS25\nP26\tled[0]\t\n');
    expect(first).toEqual({
      name: 'clk',
      pin: 'P1',
      standard: 'LVCMOS 2.5 V',
      drive: '8',
      pull: 'none',
      slew: 'slow',
      line: 2,
    });
    expect(second).toMatchObject({ name: 'led[0]', standard: 'LVCMOS 3.3 V', line: 3 });
    expect(parsePinTable('clk,P1\n# comment\nled[0],P26,LVCMOS18,4,up,fast\n')[1]).toEqual({
      name: 'led[0]',
      pin: 'P26',
      standard: 'LVCMOS 1.8 V',
      drive: '4',
      pull: 'up',
      slew: 'fast',
      line: 3,
    });
  });
  test('comes back as it was written', () => {
    const cell = fc.constantFrom('P1', 'P26', 'x', '');
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            name: fc.constantFrom('clk', 'led[0]', 'odd name'),
            pin: cell,
            standard: fc.constantFrom('LVCMOS 3.3 V', 'LVCMOS 1.8 V'),
            drive: fc.constantFrom('8', '4'),
            pull: fc.constantFrom('none', 'up'),
            slew: fc.constantFrom('slow', 'fast'),
          }),
        ),
        (rows) => {
          const entries = rows.map((row, i) => ({ ...row, line: i + 2 }));
          expect(parsePinTable(writePinTable(entries))).toEqual(
            entries.map((entry) => ({ ...entry, line: expect.any(Number) })),
          );
        },
      ),
    );
  });
});

describe('rules', () => {
  test('a good table binds every bit', () => {
    const { bindings, issues } = check('port,pin\nclk,P1\nled[0],P26\nled[1],P27\n');
    expect(issues).toEqual([]);
    expect(bindings).toHaveLength(3);
    expect(bindings[0]).toEqual({
      port: 'clk',
      bit: 0,
      pin: 'P1',
      standard: 'LVCMOS 3.3 V',
      drive: 8,
      pull: 'none',
      slew: 'slow',
    });
  });
  test('used twice, not bonded, supply, no such bit, port twice, clock off the clock network', () => {
    expect(codes('clk,P1\nled[0],P26\nled[1],P26\n')).toEqual(['pin-twice/pin/2']);
    expect(codes('clk,P1\nled[0],P26\nled[1],B7\n')).toEqual(['pin-unknown/pin/2']);
    expect(codes('clk,P1\nled[0],P26\nled[1],P25\n')).toEqual(['pin-unknown/pin/2']);
    expect(codes('clk,P1\nled[0],P26\nled[5],P27\n')).toEqual(['pin-port/name/2', 'unplaced-port/pin/-1']);
    expect(codes('clk,P1\nled[0],P26\nled[0],P27\n')).toEqual(['port-twice/name/2', 'unplaced-port/pin/-1']);
    expect(codes('clk,P9\nled[0],P26\nled[1],P27\n')).toEqual(['pin-clock/pin/0']);
  });
  test('a line for a port that is gone is passed over, whatever it says, and takes its pin from nobody', () => {
    const { bindings, issues } = check('old,P26\ngone[3],P99,TTL\nclk,P1\nled[0],P26\nled[1],P27\n');
    expect(issues.map(({ code, severity, entry }) => [code, severity, entry])).toEqual([
      ['pin-port', 'warning', 0],
      ['pin-port', 'warning', 1],
    ]);
    expect(bindings.map(({ port, pin }) => [port, pin])).toEqual([
      ['clk', 'P1'],
      ['led', 'P26'],
      ['led', 'P27'],
    ]);
  });
  test('a clock that is on no pin weighs as much as one without a frequency, and more than any other port', () => {
    expect(check('led[0],P26\n').issues.map(({ code, severity, port }) => [code, severity, port])).toEqual([
      ['unplaced-clock', 'serious', 'clk'],
      ['unplaced-port', 'warning', 'led'],
    ]);
  });
  test('cells that mean nothing are marked each for itself', () => {
    expect(codes('clk,P1,TTL\nled[0],P26,LVCMOS33,7\nled[1],P27,LVCMOS33,8,sideways,quick\n')).toEqual([
      'pin-standard/standard/0',
      'pin-drive/drive/1',
      'pin-pull/pull/2',
      'pin-slew/slew/2',
    ]);
  });
  test('standards against the supply of the bank, from the board or from each other', () => {
    expect(codes('clk,P1,LVCMOS18\nled[0],P26\nled[1],P27\n', { 0: 3.3 })).toEqual(['pin-standard/standard/0']);
    expect(codes('clk,P1\nled[0],P26\nled[1],P27,LVCMOS25\n')).toEqual(['pin-standard/standard/2']);
  });
});

describe('packages', () => {
  test.each(['Q64', 'Q100', 'B196'] as const)(
    '%s: pads do not touch, user pins have banks, each bank has clock pins',
    (name) => {
      const { pins, pitch } = PART.family.drawing(name);
      for (const [i, a] of pins.entries())
        for (const b of pins.slice(i + 1))
          expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(pitch - 1e-9);
      for (const pin of pins) expect(pin.bank === null).toBe(pin.kind !== 'io');
      expect([0, 1, 2, 3].map((bank) => pins.filter((pin) => pin.bank === bank && pin.clock).length)).toEqual([
        2, 2, 2, 2,
      ]);
    },
  );
});

describe('pins from a board', () => {
  const board = readBoard(
    'b',
    JSON.stringify({
      format: 'nimble-board',
      version: 1,
      name: 'Desk',
      part: 'CV25',
      oscillators: [{ net: 'OSC_12M', pin: 'P1', hertz: 12e6 }],
      nets: [
        { net: 'USER_LED0', pin: 'P26' },
        { net: 'USER_LED1', pin: 'P27' },
        { net: 'BTN_RESET', pin: 'P5' },
      ],
    }),
  );
  test('net names are matched to ports through words that mean the same', () => {
    if (!board.ok) throw new Error(board.error.message);
    const ports: PortNeed[] = [
      { name: 'clk', width: 1, direction: 'input', clock: true },
      { name: 'lamp', width: 2, direction: 'output', clock: false },
      { name: 'rst_n', width: 1, direction: 'input', clock: false },
    ];
    expect(offerPins(ports, new Set(), board.value, new Set()).map(({ name, pin }) => `${name} ${pin}`)).toEqual([
      'clk P1',
      'lamp[0] P26',
      'lamp[1] P27',
      'rst_n P5',
    ]);
    expect(offerPins(ports, new Set(['lamp[0]']), board.value, new Set(['P27'])).map(({ name }) => name)).not.toContain(
      'lamp[0]',
    );
  });
  test('a file that is none says where', () => {
    const read = readBoard('x.board.json', '{"format":"nimble-board","version":1}');
    expect(read.ok ? '' : read.error.message).toMatch(/x\.board\.json: name/);
  });
});
