// Parts of signals in plans.
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../tests/support/replayed.ts';
import { insertCores } from './insert.ts';
import { partOf, signalPart } from './part.ts';
import { missingNames } from './shelf.ts';

describe('a part of a signal', () => {
  test('is neighbouring bits of it, counted from the lowest', () => {
    expect(signalPart('a.b[3:1]')).toEqual({ signal: 'a.b', lo: 1, width: 3 });
    expect(signalPart('a.g[2].b[0]')).toEqual({ signal: 'a.g[2].b', lo: 0, width: 1 });
    for (const name of ['a.b', 'a.b[1:3]', 'a.b[]', '[3]', 'a.b[x]']) expect(signalPart(name)).toBeNull();
  });

  test('names of whole signals come first, and bits that are not there are none', () => {
    const known = new Map([
      ['w', { width: 4 }],
      ['w[1]', { width: 8 }],
    ]);
    const of = (name: string) => partOf((one) => known.get(one), name);
    expect(of('w[1]')).toEqual({ of: { width: 8 }, lo: 0, width: 8 });
    expect(of('w[2]')).toEqual({ of: { width: 4 }, lo: 2, width: 1 });
    expect(of('w[4]')).toBeNull();
    expect(of('v[0]')).toBeNull();
  });

  test('is recorded as a number of its own; in a plan only names of signals that are gone are missing', () => {
    const netlist = netlistOf('module d(input clk, input signed [7:0] a, output y); assign y = ^a; endmodule', 'd');
    const recorder = { name: 'r', clock: 'd.clk', depth: 16, signals: ['d.a[6:2]', 'd.y', 'd.a'] };
    const map = insertCores(netlist, { recorders: [recorder], panels: [] }, '0'.repeat(32));
    expect(map.ok && map.value.cores[0]).toMatchObject({
      signals: [
        { name: 'd.a[6:2]', width: 5, lo: 0, signed: false },
        { name: 'd.y', width: 1, lo: 5 },
        { name: 'd.a', width: 8, lo: 6, signed: true },
      ],
    });
    const beyond = { ...recorder, signals: ['d.a[8]'] };
    const refused = insertCores(netlist, { recorders: [beyond], panels: [] }, '0'.repeat(32));
    expect(refused.ok || refused.error.code).toBe('signal-gone');
    const plan = { recorders: [{ ...recorder, signals: ['d.a[6:2]', 'd.gone[1]'] }], panels: [] };
    expect(missingNames(plan, new Set(['d.clk', 'd.a']))).toEqual(['d.gone[1]']);
  });
});
