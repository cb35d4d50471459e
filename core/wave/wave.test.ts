import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bitsFromBigInt } from '../bits/index.ts';
import { type Capture, changesOf, valueAt, writeVcd } from './index.ts';

const WIDTHS = [1, 8, 3, 33];
const signals = WIDTHS.map((width, i) => ({ name: `top.m${i % 2}.s${i}`, width, lo: WIDTHS.slice(0, i).reduce((a, b) => a + b, 0), signed: false, domain: 'top.clk' }));
const sampleBits = WIDTHS.reduce((a, b) => a + b, 0);

function captureOf(words: readonly bigint[]): Capture {
  const all = words.reduce((sum, word, i) => sum | (BigInt.asUintN(sampleBits, word) << BigInt(i * sampleBits)), 0n);
  return { recorder: 'r', fingerprint: '0'.repeat(32), condition: '', signals, samples: words.length, sampleBits, triggerIndex: 0, sampleRate: 12.5e6, data: bitsFromBigInt(all, sampleBits * words.length) };
}

/** A reader of value change dumps written for this test from IEEE 1364-2005, clause 18: names, and each signal's value over time. */
function readVcd(text: string): { timescale: string; values: Map<string, { width: number; changes: [number, bigint][] }> } {
  const tokens = text.split(/\s+/).filter(Boolean);
  const scope: string[] = [];
  const byCode = new Map<string, { width: number; changes: [number, bigint][] }>();
  const values = new Map<string, { width: number; changes: [number, bigint][] }>();
  let timescale = '';
  let time = 0;
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i] as string;
    const until = () => {
      const words: string[] = [];
      for (i++; tokens[i] !== '$end'; i++) words.push(tokens[i] as string);
      return words;
    };
    if (token === '$timescale') timescale = until().join('');
    else if (token === '$scope') scope.push(until()[1] as string);
    else if (token === '$upscope') {
      until();
      scope.pop();
    } else if (token === '$var') {
      const [, width, code, name] = until() as [string, string, string, string];
      const entry = { width: Number(width), changes: [] as [number, bigint][] };
      byCode.set(code, entry);
      values.set([...scope, name].join('.'), entry);
    } else if (token === '$dumpvars' || token === '$end') continue;
    else if (token.startsWith('$')) until();
    else if (token.startsWith('#')) time = Number(token.slice(1));
    else if (/^[bB]/.test(token)) byCode.get(tokens[++i] as string)?.changes.push([time, BigInt(`0b${token.slice(1)}`)]);
    else byCode.get(token.slice(1))?.changes.push([time, BigInt(token[0] as string)]);
  }
  return { timescale, values };
}

describe('a capture', () => {
  test('gives back every value, and only changes as changes', () => {
    fc.assert(
      fc.property(fc.array(fc.bigInt(0n, (1n << 45n) - 1n), { minLength: 1, maxLength: 40 }), (words) => {
        const capture = captureOf(words);
        for (const signal of signals) {
          const expected = words.map((word) => BigInt.asUintN(signal.width, word >> BigInt(signal.lo)));
          expect(expected.map((_, i) => valueAt(capture, signal, i))).toEqual(expected);
          expect(changesOf(capture, signal)).toEqual(expected.flatMap((value, sample) => (sample === 0 || expected[sample - 1] !== value ? [{ sample, value }] : [])));
        }
      }),
    );
  });

  test('as VCD is read by another reader to the same values at the same times', () => {
    fc.assert(
      fc.property(fc.array(fc.bigInt(0n, (1n << 45n) - 1n), { minLength: 1, maxLength: 40 }), (words) => {
        const capture = captureOf(words);
        const { timescale, values } = readVcd(writeVcd(capture, '2026-01-01T00:00:00Z'));
        expect(timescale).toBe('1ps');
        expect([...values.keys()].sort()).toEqual(signals.map((s) => s.name).sort());
        for (const signal of signals) {
          expect(values.get(signal.name)?.width).toBe(signal.width);
          expect(values.get(signal.name)?.changes).toEqual(changesOf(capture, signal).map(({ sample, value }) => [sample * 80_000, value]));
        }
      }),
    );
  });
});
