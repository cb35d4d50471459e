import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { emptyStage, FORM_RELATIONS, type FormStage, type FormTerm, formOf, sentenceOf, takesValue } from './index.ts';

describe('a condition as fields', () => {
  const term = fc
    .record({
      not: fc.boolean(),
      signal: fc.constantFrom('go', 'top.level', 'a.state[2]'),
      relation: fc.constantFrom(...FORM_RELATIONS),
      value: fc.constantFrom('5', "4'b1x0x", '-3', 'FILLING'),
    })
    .map(
      ({ relation, value, ...rest }): FormTerm => ({
        ...rest,
        relation,
        value: relation === 'in' ? `${value}..9` : takesValue(relation) ? value : '',
      }),
    );
  const stage = fc.record({
    terms: fc.array(term, { minLength: 1, maxLength: 4 }),
    join: fc.constantFrom('and' as const, 'or' as const),
    times: fc.integer({ min: 1, max: 9 }),
    inARow: fc.boolean(),
    within: fc.option(fc.integer({ min: 1, max: 900 })),
    otherwise: fc.nat(2),
  });

  test('becomes a sentence and comes back the same', () => {
    fc.assert(
      fc.property(fc.array(stage, { minLength: 1, maxLength: 3 }), (wanted) => {
        const stages = wanted.map(
          (one): FormStage => ({
            ...one,
            join: one.terms.length === 1 ? 'and' : one.join,
            otherwise: one.within === null ? 0 : one.otherwise % wanted.length,
          }),
        );
        expect(formOf(sentenceOf(stages))).toEqual(stages);
      }),
    );
  });

  test('what the fields cannot show stays a sentence', () => {
    expect(formOf('a and (b or c)')).toBeNull();
    expect(formOf('not (a and b)')).toBeNull();
    expect(formOf('a ==')).toBeNull();
    expect(formOf('  ')).toEqual([]);
    expect(sentenceOf([emptyStage('go')])).toBe('go == 1');
  });
});
