import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { FoundDevice } from '../jtag/index.ts';
import { added, edited, moved, removed } from '../../ui/bench/chain/edit.ts';
import { chainOf, compareChains, describeRow, type ExpectedDevice, readChainFile, writeChainFile } from './index.ts';

const CODES = { A: 0x1000a001, B: 0x1000b001, C: 0x1000c001, D: 0x1000d001 } as const;
type Name = keyof typeof CODES;
const expected = (...names: Name[]): ExpectedDevice[] =>
  names.map((name) => ({ part: name, idcode: `0x${CODES[name].toString(16).toUpperCase()}`, irLength: 4 }));
const found = (...names: Name[]): FoundDevice[] =>
  names.map((name, index) => ({
    index,
    idcode: CODES[name],
    irLength: 4,
    part: name,
    candidates: [name],
    irCapture: '0001',
  }));
const told = (want: ExpectedDevice[], got: FoundDevice[]) =>
  compareChains(want, got).map((row) => describeRow(row, want, got));

describe('the expected chain beside what answers', () => {
  test('alike', () =>
    expect(compareChains(expected('A', 'B'), found('A', 'B')).map((row) => row.kind)).toEqual(['same', 'same']));
  test('one missing', () =>
    expect(told(expected('A', 'B', 'C'), found('A', 'C'))).toEqual([
      'A at place 0',
      'B is missing from place 1',
      'C at place 1',
    ]));
  test('one too many', () =>
    expect(told(expected('A', 'C'), found('A', 'B', 'C'))).toEqual([
      'A at place 0',
      'B at place 1 is not expected',
      'C at place 2',
    ]));
  test('two swapped', () =>
    expect(
      compareChains(expected('A', 'B', 'C'), found('B', 'A', 'C')).filter((row) => row.kind === 'swapped').length,
    ).toBeGreaterThan(0));
  test('far ones swapped', () =>
    expect(
      told(expected('A', 'B', 'C', 'D'), found('D', 'B', 'C', 'A')).filter((text) => text.includes('instead of')),
    ).toEqual(['A is at place 3 instead of 0', 'D is at place 0 instead of 3']));
  test('another part in a place', () =>
    expect(told(expected('A', 'B'), found('A', 'D'))).toEqual(['A at place 0', 'D instead of B at place 1']));
  test('another version of the same part', () => {
    const got = found('A').map((device) => ({ ...device, idcode: 0x3000a001 }));
    expect(told(expected('A'), got)).toEqual(['A at place 0 has another version']);
  });
  test('a device without IDCODE is the same when its length is', () => {
    const want: ExpectedDevice[] = [{ part: null, idcode: null, irLength: 5 }];
    const got: FoundDevice[] = [{ index: 0, idcode: null, irLength: 5, part: null, candidates: [], irCapture: null }];
    expect(compareChains(want, got)).toEqual([{ kind: 'same', expected: 0, found: 0 }]);
  });
  test('every device of both sides is told of once', () => {
    const names = fc.array(fc.constantFrom<Name>('A', 'B', 'C', 'D'), { maxLength: 8 });
    fc.assert(
      fc.property(names, names, (want, got) => {
        const rows = compareChains(expected(...want), found(...got));
        expect(rows.flatMap((row) => row.expected ?? []).sort()).toEqual(want.map((_, i) => i));
        expect(rows.flatMap((row) => row.found ?? []).sort()).toEqual(got.map((_, i) => i));
        if (want.join() === got.join()) expect(rows.every((row) => row.kind === 'same')).toBe(true);
      }),
    );
  });
});

describe('its file', () => {
  const chain = chainOf(found('A', 'B'));
  test('is what was accepted, and reads back the same', () => {
    expect(chain).not.toBeNull();
    if (chain) expect(readChainFile('x', writeChainFile(chain))).toEqual({ ok: true, value: chain });
    expect(chainOf([{ part: null, idcode: null, irLength: null }])).toBeNull();
  });
  test.each([
    ['{', /is no JSON/],
    ['{"format":"nimble-chain","version":2,"devices":[]}', /version/],
    ['{"format":"nimble-chain","version":1,"devices":[{"irLength":1}]}', /devices\.0\.irLength/],
  ])('%s is refused', (text, message) => {
    const read = readChainFile('b.chain.json', text);
    expect(!read.ok && read.error.message).toMatch(message);
  });
  test('can be edited by hand', () => {
    if (!chain) return;
    expect(moved(chain, 0, 1).devices.map((device) => device.part)).toEqual(['B', 'A']);
    expect(removed(added(chain), 0).devices.map((device) => device.part)).toEqual(['B', null]);
    expect(edited(chain, 1, { part: 'Z', idcode: null, irLength: 9 }).devices[1]).toEqual({
      part: 'Z',
      idcode: null,
      irLength: 9,
    });
  });
});
