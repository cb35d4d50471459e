import type { RecorderMap } from '../probes/index.ts';
import { fail, ok, type Problem, problem, type Result } from '../result.ts';

/** A recorder triggers where `(sample & mask) == value`. */
export interface Comparison {
  readonly value: bigint;
  readonly mask: bigint;
}

const TERM = /^\s*([A-Za-z_$][\w$.[\]]*)\s*==\s*(\S+)\s*$/;

/**
 * `signal == value`, several joined by `&&`. A signal may be named by the end of its path where that is unambiguous. Values as
 * `parseValue` reads them; x digits are not compared.
 */
export function compileCondition(text: string, recorder: RecorderMap): Result<Comparison> {
  let value = 0n;
  let mask = 0n;
  for (const term of text.split('&&')) {
    const match = TERM.exec(term);
    if (!match) return fail(problem('trigger-syntax', `"${term.trim()}" is no comparison.`, 'Write signal == value, such as gate_open == 1 or state == 4\'b01xx.'));
    const [, name = '', digits = ''] = match;
    const signal = findSignal(name, recorder);
    if (!signal.ok) return signal;
    const parsed = parseValue(digits, signal.value.width);
    if (!parsed.ok) return parsed;
    value |= parsed.value.value << BigInt(signal.value.lo);
    mask |= parsed.value.mask << BigInt(signal.value.lo);
  }
  return ok({ value, mask });
}

function findSignal(name: string, recorder: RecorderMap): Result<RecorderMap['signals'][number]> {
  const exact = recorder.signals.find((signal) => signal.name === name);
  if (exact) return ok(exact);
  const found = recorder.signals.filter((signal) => signal.name.endsWith(`.${name}`));
  const [only, another] = found;
  const known = recorder.signals.map((signal) => signal.name).join(', ');
  if (!only) return fail(problem('trigger-signal', `The recorder "${recorder.name}" does not store "${name}".`, `It stores ${known}.`, 'Add the signal under Probe and build again.'));
  if (another) return fail(problem('trigger-signal', `"${name}" may mean ${found.map((s) => s.name).join(' or ')}.`, 'Write more of the path.'));
  return ok(only);
}

const BASES: Readonly<Record<string, number>> = { b: 1, o: 3, h: 4 };

/** Decimal (also negative), 0x…, 0b…, or Verilog form; x digits open bits. `mask` has a 1 for every bit that counts. */
export function parseValue(text: string, width: number): Result<Comparison, Problem> {
  const all = (1n << BigInt(width)) - 1n;
  const compact = text.replace(/_/g, '').toLowerCase();
  const wrong = () => fail(problem('trigger-value', `"${text}" is no value.`, "Write a decimal number, 0x1f, 0b01x1 or 4'h0F."));
  if (/^-?\d+$/.test(compact)) {
    const value = BigInt(compact);
    const least = -(1n << BigInt(width - 1));
    if (value > all || value < least) return fail(tooWide(text, width));
    return ok({ value: value & all, mask: all });
  }
  const prefixed = /^0([xb])([0-9a-fx]+)$/.exec(compact);
  const based = /^\d*'s?([boh])([0-9a-fx]+)$/.exec(compact);
  const [base, digits] = prefixed ? [prefixed[1] === 'x' ? 'h' : 'b', prefixed[2]] : based ? [based[1], based[2]] : [undefined, undefined];
  if (base === undefined || digits === undefined) return wrong();
  const step = BigInt(BASES[base] as number);
  const ones = (1n << step) - 1n;
  let value = 0n;
  let mask = 0n;
  for (const digit of digits) {
    const number = digit === 'x' ? 0 : Number.parseInt(digit, 16);
    if (BigInt(number) > ones) return wrong();
    value = (value << step) | BigInt(number);
    mask = (mask << step) | (digit === 'x' ? 0n : ones);
  }
  if (value > all) return fail(tooWide(text, width));
  const written = (1n << (step * BigInt(digits.length))) - 1n;
  return ok({ value, mask: (mask | ~written) & all });
}

const tooWide = (text: string, width: number): Problem => problem('trigger-value', `"${text}" does not fit into the ${width} ${width === 1 ? 'bit' : 'bits'} of the signal.`, 'Check the value, or compare another signal.');
