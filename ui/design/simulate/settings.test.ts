import { describe, expect, test } from 'vitest';
import { keptOf, typedOf } from './settings.ts';
import { incidentsOf } from './vector-rows.ts';

describe('settings of a simulation', () => {
  test('come back as they were typed', () => {
    const typed = { testbench: 'tb', until: '10us', parameters: 'N=8 M=0x1f K=-3', plusargs: '+fast boats=2' };
    const vectors = { file: 'a.csv', parameters: { N: '2' } };
    const kept = keptOf(typed, { only: ['sim/tb.v'], parameters: {}, plusargs: [], vectors });
    expect(kept).toEqual({
      only: ['sim/tb.v'],
      vectors,
      testbench: 'tb',
      until: '10us',
      parameters: { N: '8', M: '0x1f', K: '-3' },
      plusargs: ['fast', 'boats=2'],
    });
    if ('wrong' in kept) throw new Error(kept.wrong);
    expect(typedOf(kept, 'other')).toEqual({ ...typed, plusargs: 'fast boats=2' });
  });
  test('of a project that has none are empty, with the testbench that is proposed', () => {
    expect(typedOf(undefined, 'tb')).toEqual({ testbench: 'tb', until: '', parameters: '', plusargs: '' });
  });
  test('a word that is no parameter is named', () => {
    expect(keptOf({ testbench: 'tb', until: '', parameters: 'N=8 M', plusargs: '' }, undefined)).toEqual({
      wrong: 'M',
    });
    expect(keptOf({ testbench: 'tb', until: '', parameters: 'N=1.5', plusargs: '' }, undefined)).toEqual({
      wrong: 'N=1.5',
    });
  });
});

describe('rows of a table that failed', () => {
  const result = {
    ...{ passed: 1, failed: 1, actual: [], vectors: { columns: [], rows: [] } },
    failures: [
      { row: 2, port: 'q', actual: '0x3' },
      { row: 2, port: 'full', actual: '0' },
    ],
    trace: { signals: [], end: 9, cut: false },
  };
  test('stand at the step where they ended, with all that came instead', () => {
    expect(incidentsOf({ ...result, ends: [4, 9] })).toEqual([
      { tick: 9, text: 'row 2: q is 0x3, full is 0', isBad: true },
    ]);
  });
  test('stand nowhere in a run that was kept before steps were', () => {
    expect(incidentsOf(result)).toEqual([]);
  });
});
