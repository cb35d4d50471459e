// Which rules of a timing table mean which ways, by names alone.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { WayRule } from '../../constraints/index.ts';
import { Rules } from './rules.ts';

const rule = (from: string, to: string, line = 1): WayRule => ({ kind: 'false path', from, to, cycles: 0, line });

describe('rules of the timing table', () => {
  test('a name is meant whole, with the top module or without it', () => {
    const rules = new Rules([rule('u.count', 'top.u.sum')]);
    expect(rules.from(['top.u.count'])).toEqual([0]);
    expect(rules.to(['top.u.sum'])).toEqual([0]);
    for (const other of ['top.u.counter', 'top.v.count', 'top.u', 'count']) expect(rules.from([other])).toEqual([]);
  });
  test('* is anything, dots and brackets among it; nothing else in a name means more than itself', () => {
    const rules = new Rules([rule('u.*', '*'), rule('a+b[0]', 'x')]);
    expect(rules.from(['top.u.deep.in.it'])).toEqual([0]);
    expect(rules.from(['top.a+b[0]'])).toEqual([1]);
    expect(rules.from(['top.aab0'])).toEqual([]);
    expect(rules.to(['anything', 'x'])).toEqual([0, 1]);
  });
  test('of several about one way the last one counts, and is counted with the longest', () => {
    const rules = new Rules([rule('*', '*', 2), rule('a', 'b', 5), rule('c', 'd', 7)]);
    expect(rules.take(rules.from(['m.a']), rules.to(['m.b']), 3)?.line).toBe(5);
    expect(rules.take(rules.from(['m.a']), rules.to(['m.b']), 4)?.line).toBe(5);
    expect(rules.take(rules.from(['m.a']), rules.to(['m.x']), 9)?.line).toBe(2);
    expect(rules.uses().map(({ line, ways, longest }) => [line, ways, longest])).toEqual([
      [2, 1, 9],
      [5, 2, 4],
      [7, 0, 0],
    ]);
  });
  test('a rule counts where it both begins and ends, never for one of the two', () => {
    const name = fc.constantFrom('m.a', 'm.b', 'm.u.a', 'm.u.b');
    const pattern = fc.constantFrom('a', 'b', 'u.a', 'u.*', '*', 'm.b');
    // Written once more, without expressions: each text of letters is looked for in turn.
    const means = (text: string, whole: string): boolean =>
      [whole, whole.slice(2)].some((one) => (text.endsWith('*') ? one.startsWith(text.slice(0, -1)) : one === text));
    fc.assert(
      fc.property(fc.array(fc.tuple(pattern, pattern), { maxLength: 4 }), name, name, (list, from, to) => {
        const rules = new Rules(list.map(([one, other], i) => rule(one, other, i + 1)));
        const wanted = list.findLastIndex(([one, other]) => means(one, from) && means(other, to));
        expect(rules.take(rules.from([from]), rules.to([to]), 1)?.line ?? 0).toBe(wanted + 1);
      }),
      { numRuns: 500 },
    );
  });
});
