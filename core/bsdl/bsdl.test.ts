import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FAMILIES } from '../families/index.ts';
import { readBsdl } from './index.ts';

/** A description with everything the grammar of the standard's BSDL annex allows here; made up. */
const GOOD = `-- a comment, and an entity in another case
Entity Latch4 is
  generic (PHYSICAL_PIN_MAP : string := "DIL");
  port (CLK : in bit; D : in bit_vector(1 to 2); Q : out bit_vector(1 downto 0);
        B : inout bit; OC : buffer bit; GND, VCC : linkage bit; TDI, TMS, TCK, TRST : in bit; TDO : out bit);
  use STD_1149_1_1994.all; use LATCH_CELLS.all;
  attribute COMPONENT_CONFORMANCE of Latch4 : entity is "STD_1149_1_1993";
  attribute PIN_MAP of Latch4 : entity is PHYSICAL_PIN_MAP;
  constant DIL : PIN_MAP_STRING := "CLK:1, D:(2,3)," & -- joined
    "Q:(4,5), B:6, OC:7, GND:8, VCC:16," &
    "TDI:9, TMS:10, TCK:11, TRST:12, TDO:13";
  constant SO : PIN_MAP_STRING := "CLK:20";
  attribute TAP_SCAN_IN of TDI : signal is true;
  attribute TAP_SCAN_MODE of TMS : signal is true;
  attribute TAP_SCAN_OUT of TDO : signal is true;
  attribute TAP_SCAN_RESET of TRST : signal is true;
  attribute TAP_SCAN_CLOCK of TCK : signal is (20.0e6, BOTH);
  attribute COMPLIANCE_PATTERNS of Latch4 : entity is "(CLK) (0)";
  attribute INSTRUCTION_LENGTH of Latch4 : entity is 4;
  attribute INSTRUCTION_OPCODE of Latch4 : entity is
    "BYPASS (1111, 1000), EXTEST (0000)," & "SAMPLE (0010), PRELOAD (0010)," & "IDCODE (0001), SELFTEST (110X)";
  attribute INSTRUCTION_CAPTURE of Latch4 : entity is "XX01";
  attribute INSTRUCTION_PRIVATE of Latch4 : entity is "SELFTEST";
  attribute IDCODE_REGISTER of Latch4 : entity is "XXXX" & "0000000000000101" & "00000000101" & "1";
  attribute REGISTER_ACCESS of Latch4 : entity is "BOUNDARY (EXTEST, SAMPLE), SCRATCH[17] (SELFTEST CAPTURES 01)";
  attribute BOUNDARY_LENGTH of Latch4 : entity is 9;
  attribute BOUNDARY_REGISTER of Latch4 : entity is
    "0 (BC_1, CLK, clock, X)," &
    "1 (BC_1, D(1), input, X), 2 (BC_1, D(2), input, X)," &
    "3 (BC_1, Q(1), output3, X, 5, 1, Z), 4 (BC_1, Q(0), output3, X, 5, 1, Z)," &
    "5 (BC_1, *, controlr, 1)," &
    "6 (BC_7, B, bidir, X, 5, 1, Z)," &
    "7 (BC_1, OC, output2, 1, 7, 1, WEAK1)," &
    "8 (BC_4, B, observe_only, X)";
end Latch4;
`;

const codes = (text: string) => readBsdl(text).problems.map(({ code, line }) => `${code}@${line}`);
const line = (text: string) => GOOD.slice(0, GOOD.indexOf(text)).split('\n').length;
const without = (from: string, to: string) => GOOD.replace(from, to);

// IEEE 1149.1, BSDL annex: attributes, cell functions, rules of the registers (values from memory).
describe('a description', () => {
  test('is read whole: ranges either way, joined strings, every cell function, a second pin map', () => {
    const { entity, problems, valid } = readBsdl(GOOD);
    expect([problems, valid]).toEqual([[], true]);
    expect(entity).toMatchObject({
      entity: 'Latch4',
      packageName: 'DIL',
      irLength: 4,
      irCapture: 'XX01',
      idcode: `XXXX0000000000000101000000001011`,
      boundaryLength: 9,
      tap: { tdi: 'TDI', trst: 'TRST', mostHz: 20e6 },
    });
    expect(entity?.ports.map(({ name, pin }) => `${name}=${pin}`).join(' ')).toBe(
      'CLK=1 D(1)=2 D(2)=3 Q(1)=4 Q(0)=5 B=6 OC=7 GND=8 VCC=16 TDI=9 TMS=10 TCK=11 TRST=12 TDO=13',
    );
    expect(entity?.instructions).toEqual({
      BYPASS: ['1111', '1000'],
      EXTEST: ['0000'],
      SAMPLE: ['0010'],
      PRELOAD: ['0010'],
      IDCODE: ['0001'],
      SELFTEST: ['110X'],
    });
    expect(entity?.registers).toContainEqual({ name: 'SCRATCH', length: 17, instructions: ['SELFTEST'] });
    expect(entity?.cells.map((cell) => cell.function)).toEqual([
      'CLOCK',
      'INPUT',
      'INPUT',
      'OUTPUT3',
      'OUTPUT3',
      'CONTROLR',
      'BIDIR',
      'OUTPUT2',
      'OBSERVE_ONLY',
    ]);
    expect(entity?.cells[3]).toMatchObject({ port: 'Q(1)', disable: { control: 5, value: 1, result: 'Z' } });
  });

  test.each(
    FAMILIES.flatMap((family) =>
      family.devices.flatMap(({ name }) =>
        family.packagesOf(name).map((packageName, i) => ({ family, name, packageName, isUsual: i === 0 })),
      ),
    ),
  )('of the invented $name in $packageName is good, and the file beside the demo is the same', (one) => {
    const { family, name, packageName, isUsual } = one;
    const file = `${name}${isUsual ? '' : `-${packageName}`}.bsd`.toLowerCase();
    const text = readFileSync(join('demo', 'devices', file), 'utf8');
    expect(text).toBe(family.describe(name, packageName));
    expect(readBsdl(text)).toMatchObject({ valid: true, problems: [], entity: { packageName } });
  });
});

describe('what is wrong is told with its line', () => {
  test.each([
    [
      'the IDCODE of nobody',
      () => without('"00000000101"', '"00001111111"'),
      `idcode-manufacturer@${line('attribute IDCODE_REGISTER')}`,
    ],
    ['an IDCODE that ends in 0', () => without('& "1";', '& "0";'), `idcode-lsb@${line('attribute IDCODE_REGISTER')}`],
    [
      'an IDCODE of 31 digits',
      () => without('"XXXX" &', '"XXX" &'),
      `idcode-length@${line('attribute IDCODE_REGISTER')}`,
    ],
    [
      'a capture pattern that does not end in 01',
      () => without('"XX01"', '"XX11"'),
      `capture-bits@${line('INSTRUCTION_CAPTURE')}`,
    ],
    [
      'an opcode of the wrong length',
      () => without('IDCODE (0001)', 'IDCODE (00001)'),
      `opcode-length@${line('IDCODE (0001)')}`,
    ],
    ['an opcode used twice', () => without('IDCODE (0001)', 'IDCODE (0000)'), `opcode-shared@${line('IDCODE (0001)')}`],
    [
      'no BYPASS',
      () => without('BYPASS (1111, 1000)', 'HIGHZ (1111)'),
      `missing-instruction@${line('attribute INSTRUCTION_OPCODE')}`,
    ],
    [
      'no EXTEST',
      () => without('EXTEST (0000)', 'CLAMP (0000)'),
      `missing-instruction@${line('attribute INSTRUCTION_OPCODE')}`,
    ],
    [
      'a missing cell',
      () =>
        without(
          'attribute BOUNDARY_LENGTH of Latch4 : entity is 9',
          'attribute BOUNDARY_LENGTH of Latch4 : entity is 10',
        ),
      `cell-missing@${line('attribute BOUNDARY_REGISTER')}`,
    ],
    ['a cell outside the register', () => without('entity is 9', 'entity is 8'), `cell-range@${line('8 (BC_4')}`],
    [
      'a cell twice',
      () => without('"8 (BC_4, B, observe_only, X)"', '"0 (BC_1, CLK, clock, X)"'),
      `cell-twice@${line('8 (BC_4')}`,
    ],
    ['a cell of a port that is none', () => without('BC_1, D(2)', 'BC_1, D(9)'), `cell-port@${line('2 (BC_1, D(2)')}`],
    [
      'an output cell of an input',
      () => without('BC_1, D(1), input', 'BC_1, D(1), output2'),
      `cell-direction@${line('1 (BC_1, D(1)')}`,
    ],
    [
      'a function that is none',
      () => without('BC_1, CLK, clock', 'BC_1, CLK, tick'),
      `cell-function@${line('0 (BC_1')}`,
    ],
    [
      'a driver without a control cell',
      () => without('B, bidir, X, 5, 1, Z', 'B, bidir, X'),
      `cell-control@${line('6 (BC_7')}`,
    ],
    [
      'a control cell that is none',
      () => without('B, bidir, X, 5, 1, Z', 'B, bidir, X, 0, 1, Z'),
      `cell-control@${line('6 (BC_7')}`,
    ],
    ['a pin used twice', () => without('B:6', 'B:7'), `pin-twice@${line('B : inout')}`],
    ['too few pins for a vector', () => without('D:(2,3)', 'D:(2)'), `pin-map-count@${line('constant DIL')}`],
    [
      'a TAP port of the wrong direction',
      () => without('TAP_SCAN_OUT of TDO', 'TAP_SCAN_OUT of TDI'),
      `tap-direction@${line('TAP_SCAN_OUT')}`,
    ],
    [
      'a missing attribute',
      () => without('attribute INSTRUCTION_LENGTH of Latch4 : entity is 4;', ''),
      `missing-attribute@2`,
    ],
    ['another name at the end', () => without('end Latch4', 'end Latch5'), `end-name@${line('end Latch4')}`],
    ['a string that is not closed', () => without('"XX01"', '"XX01'), `open-string@${line('INSTRUCTION_CAPTURE')}`],
    [
      'strings without &',
      () => without('"Q:(4,5), B:6, OC:7, GND:8, VCC:16," &', '"Q:(4,5), B:6, OC:7, GND:8, VCC:16,"'),
      `syntax@${line('"TDI:9')}`,
    ],
  ])('%s', (_, text, code) => {
    const found = codes(text());
    expect(found).toContain(code);
    expect(readBsdl(text()).valid).toBe(false);
  });

  test('a file that is none, and one that is cut short', () => {
    expect(codes('library ieee;')).toEqual(['no-entity@1']);
    expect(codes(GOOD.slice(0, GOOD.indexOf('end Latch4')))).toContain(`no-end@${line('8 (BC_4')}`);
  });

  test('any damage ends in problems, never in an exception', () => {
    fc.assert(
      fc.property(fc.nat(GOOD.length - 1), fc.nat(40), fc.string({ maxLength: 12 }), (at, count, put) => {
        const { entity, problems } = readBsdl(GOOD.slice(0, at) + put + GOOD.slice(at + count));
        expect(entity !== null || problems.length > 0).toBe(true);
        for (const problem of problems) expect(problem.line).toBeGreaterThan(0);
      }),
      { numRuns: 500 },
    );
  });
});
