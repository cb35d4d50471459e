import { describe, expect, test } from 'vitest';
import { keptOf, typedOf } from './settings.ts';

describe('settings of a simulation', () => {
  test('come back as they were typed', () => {
    const typed = { testbench: 'tb', until: '10us', parameters: 'N=8 M=0x1f K=-3', plusargs: '+fast boats=2' };
    const kept = keptOf(typed, ['sim/tb.v']);
    expect(kept).toEqual({
      only: ['sim/tb.v'],
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
    expect(keptOf({ testbench: 'tb', until: '', parameters: 'N=8 M', plusargs: '' }, [])).toEqual({ wrong: 'M' });
    expect(keptOf({ testbench: 'tb', until: '', parameters: 'N=1.5', plusargs: '' }, [])).toEqual({ wrong: 'N=1.5' });
  });
});
