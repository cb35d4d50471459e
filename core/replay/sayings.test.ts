import { expect, test } from 'vitest';
import { meaningText, reasonText, trustText, unknownText } from './index.ts';

const inside = (name: string): string => name.slice(name.indexOf('.') + 1);

test('every way to stay unknown, every reason and every trust has its words', () => {
  expect(unknownText({ signal: 'd.q', samples: 1, why: null, by: null }, inside)).toBe('the first 1 sample');
  expect(unknownText({ signal: 'd.q', samples: null, why: 'reset', by: 'd.u.n' }, inside)).toBe('until u.n is reset');
  expect(unknownText({ signal: 'd.q', samples: null, why: 'never', by: 'd.u.n' }, inside)).toContain(
    'nothing sets u.n',
  );
  expect(unknownText({ signal: 'd.q', samples: null, why: 'written', by: 'd.m' }, inside)).toContain('words of m');
  expect(reasonText({ kind: 'clock', name: 'd.u.q', clock: 'slow' }, inside)).toContain('a register of slow');
  expect(reasonText({ kind: 'loop', name: 'd.c' }, inside)).toContain('feeds itself');
  expect(new Set((['none', 'flows', 'loaded', 'reset', 'all'] as const).map(trustText)).size).toBe(5);
  const meanings = ['another-build', 'crossing', 'outside', 'lever', 'logic'] as const;
  expect(new Set(meanings.map(meaningText)).size).toBe(5);
});
