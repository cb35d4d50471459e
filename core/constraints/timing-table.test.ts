// The timing table as docs/formats.md, section 5, describes it.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readTimingTable, withWayRule } from './index.ts';

describe('the timing table', () => {
  test('reads rules with a header in any order, and without one', () => {
    const { rules, issues } = readTimingTable(
      'to,kind,from,value\ntop.q,multicycle,top.a*,3\n# nothing\nclk_b,False Path,clk_a,\nrx,input delay,clk,3.5 ns\n',
    );
    expect(issues).toEqual([]);
    expect(rules.ways).toEqual([
      { kind: 'multicycle', from: 'top.a*', to: 'top.q', cycles: 3, line: 2 },
      { kind: 'false path', from: 'clk_a', to: 'clk_b', cycles: 0, line: 4 },
    ]);
    expect(rules.ports).toEqual([{ kind: 'input delay', port: 'rx', clock: 'clk', delay: 3.5, line: 5 }]);
    expect(readTimingTable('output-delay;tx;clk;250ps').rules.ports).toEqual([
      { kind: 'output delay', port: 'tx', clock: 'clk', delay: 0.25, line: 1 },
    ]);
  });
  test('says of each line what is wrong with it, and takes the others', () => {
    const { rules, issues } = readTimingTable(
      'kind,from,to,value\nslow,a,b,\nmulticycle,a,b,0\nmulticycle,a,b,x\nfalse path,a,,\nfalse path,a,b,2\ninput delay,clk,p,soon\n' +
        'multicycle,a,b,2\n',
    );
    expect(issues.map(({ line, message }) => [line, message])).toEqual([
      [2, '"slow" is no kind of rule. There are: multicycle, false path, input delay, output delay.'],
      [3, '"0" is no number of cycles from 1 to 1000.'],
      [4, '"x" is no number of cycles from 1 to 1000.'],
      [5, 'It says neither from where nor to where: both cells are wanted; * is anything.'],
      [6, 'A false path has no value; "2" is one.'],
      [7, '"soon" is no time, as "3.5 ns" is.'],
    ]);
    expect(rules.ways).toHaveLength(1);
  });
  test('a rule that is added is read again as it was, whatever the names', () => {
    const name = fc
      .string({ minLength: 1, maxLength: 12, unit: fc.constantFrom(...'abc.[]*_$,"; ') })
      .filter((text) => text.trim() === text);
    fc.assert(
      fc.property(name, name, fc.integer({ min: 0, max: 1000 }), fc.boolean(), (from, to, cycles, isLater) => {
        const kind = cycles === 0 ? ('false path' as const) : ('multicycle' as const);
        const before = isLater ? 'kind,from,to,value\nfalse path,x,y,' : '';
        const { rules, issues } = readTimingTable(withWayRule(before, { kind, from, to, cycles }));
        expect(issues).toEqual([]);
        expect(rules.ways.at(-1)).toMatchObject({ kind, from, to, cycles });
        expect(rules.ways).toHaveLength(isLater ? 2 : 1);
      }),
    );
  });
});
