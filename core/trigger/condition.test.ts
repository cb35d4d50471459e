import { describe, expect, test } from 'vitest';
import type { RecorderMap } from '../probes/index.ts';
import { compileCondition, parseValue } from './index.ts';

const recorder: RecorderMap = {
  kind: 'recorder', core: 1, name: 'r', clock: 'top.clk', depth: 16, width: 13,
  signals: [
    { name: 'top.a.level', width: 8, lo: 0, signed: false },
    { name: 'top.a.go', width: 1, lo: 8, signed: false },
    { name: 'top.b.go', width: 4, lo: 9, signed: true },
  ],
};
const compiled = (text: string) => {
  const result = compileCondition(text, recorder);
  return result.ok ? [result.value.value, result.value.mask] : result.error.code;
};

describe('a condition', () => {
  test('compares one signal, by its full name or its end', () => {
    expect(compiled('top.a.level == 5')).toEqual([5n, 0xffn]);
    expect(compiled('level==0x1f')).toEqual([0x1fn, 0xffn]);
    expect(compiled('a.go == 1')).toEqual([0x100n, 0x100n]);
  });
  test('joins comparisons by &&, and leaves x digits open', () => {
    expect(compiled("level == 8'b1xxx0000 && b.go == -1")).toEqual([0x80n | (0xfn << 9n), 0x8fn | (0xfn << 9n)]);
  });
  test('says what it does not understand', () => {
    expect(compiled('level = 5')).toBe('trigger-syntax');
    expect(compiled('depth == 5')).toBe('trigger-signal');
    expect(compiled('go == 1')).toBe('trigger-signal');
    expect(compiled('level == 256')).toBe('trigger-value');
    expect(compiled('level == soon')).toBe('trigger-value');
  });
});

test.each([
  ['255', 8, 255n], ['-1', 8, 255n], ['-128', 8, 128n], ['0b1010', 4, 10n], ["4'hF", 4, 15n], ["'o17", 4, 15n], ['1_000', 10, 1000n],
])('%s in %i bits', (text, width, value) => {
  const parsed = parseValue(text, width);
  expect(parsed.ok && parsed.value.value).toBe(value);
});

test.each([['-129', 8], ['0x100', 8], ['0b2', 4], ['', 4], ['0x', 4]])('%s does not fit into %i bits or is no value', (text, width) => {
  expect(parseValue(text, width).ok).toBe(false);
});
