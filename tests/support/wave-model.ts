// Recordings made for tests, and a reader of value change dumps written from IEEE 1364-2005, clause 18, apart from the
// product's own.
import type { Recording, Trace } from '../../core/wave/index.ts';

/** Values a tick, each a string of digits 0, 1, x, z, highest first. */
export function traceFrom(name: string, values: readonly string[]): Trace {
  const width = values[0]?.length ?? 1;
  const words = Math.max(1, Math.ceil(width / 32));
  const kept = values.flatMap((value, tick) => (tick === 0 || values[tick - 1] !== value ? [{ value, tick }] : []));
  const word = (digits: string, i: number, ones: string) => {
    const part = digits.slice(Math.max(0, width - 32 * (i + 1)), width - 32 * i);
    return Number.parseInt([...part].map((digit) => (ones.includes(digit) ? '1' : '0')).join('') || '0', 2);
  };
  return {
    name,
    width,
    signed: false,
    domain: 'top.clk',
    words,
    at: Float64Array.from(kept, ({ tick }) => tick),
    bits: Uint32Array.from(kept.flatMap(({ value }) => Array.from({ length: words }, (_, i) => word(value, i, '1z')))),
    unknown: values.some((value) => /[xz]/.test(value))
      ? Uint32Array.from(kept.flatMap(({ value }) => Array.from({ length: words }, (_, i) => word(value, i, 'xz'))))
      : null,
  };
}

export const recordingFrom = (
  signals: Readonly<Record<string, readonly string[]>>,
  over: Partial<Recording> = {},
): Recording => ({
  title: 'made',
  tickSeconds: 1e-6,
  length: Object.values(signals)[0]?.length ?? 0,
  triggers: [0],
  traces: Object.entries(signals).map(([name, values]) => traceFrom(name, values)),
  gaps: [],
  stored: null,
  sampled: true,
  ...over,
});

export interface ReadSignal {
  readonly width: number;
  /** Time and digits as they stand in the dump. */
  readonly changes: [number, string][];
}

export function readDump(text: string): { timescale: string; values: Map<string, ReadSignal>; end: number } {
  const tokens = text.split(/\s+/).filter(Boolean);
  const scope: string[] = [];
  const byCode = new Map<string, ReadSignal>();
  const values = new Map<string, ReadSignal>();
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
      const entry: ReadSignal = { width: Number(width), changes: [] };
      byCode.set(code, entry);
      values.set([...scope, name].join('.'), entry);
    } else if (token === '$dumpvars' || token === '$end') continue;
    else if (token.startsWith('$')) until();
    else if (token.startsWith('#')) time = Number(token.slice(1));
    else if (/^[bB]/.test(token)) byCode.get(tokens[++i] as string)?.changes.push([time, token.slice(1)]);
    else byCode.get(token.slice(1))?.changes.push([time, token[0] as string]);
  }
  return { timescale, values, end: time };
}

/** A short value made as wide as its signal. */
export const extended = (digits: string, width: number): string =>
  digits.padStart(width, digits[0] === 'x' || digits[0] === 'z' ? digits[0] : '0');

/** The value a read signal has at a time. */
export function valueIn(signal: ReadSignal, time: number): string {
  let value = 'x'.repeat(signal.width);
  for (const [at, digits] of signal.changes) if (at <= time) value = extended(digits, signal.width);
  return value;
}
