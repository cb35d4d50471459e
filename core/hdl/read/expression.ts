import { own } from '../../lists.ts';
import type { Place } from '../../result.ts';
import type { DataType, Expression, NumberLiteral, Range } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';

/** The literal 1, as in `i++`. */
export const one = (at: Place): NumberLiteral => ({
  kind: 'number',
  at,
  width: null,
  signed: true,
  value: 1n,
  unknown: 0n,
  floating: 0n,
});

/** Binding strength of binary operators. @source IEEE 1364-2005, table 5-4 */
const STRENGTH: Readonly<Record<string, number>> = {
  '**': 12,
  '*': 11,
  '/': 11,
  '%': 11,
  '+': 10,
  '-': 10,
  '<<': 9,
  '>>': 9,
  '<<<': 9,
  '>>>': 9,
  '<': 8,
  '<=': 8,
  '>': 8,
  '>=': 8,
  '==': 7,
  '!=': 7,
  '===': 7,
  '!==': 7,
  '&': 6,
  '^': 5,
  '~^': 5,
  '^~': 5,
  '|': 4,
  '&&': 3,
  '||': 2,
  '==?': 7,
  '!=?': 7,
};
const INSIDE_STRENGTH = 8;
const UNARY = new Set(['+', '-', '!', '~', '&', '~&', '|', '~|', '^', '~^', '^~']);
const MOST_TERMS = 1500;
const MOST_BITS = 1 << 20;
/** As wide as a number may be said to be. IEEE 1364-2005, clause 3.5.1, asks for this much at least. */
const WIDEST_NUMBER = 1 << 16;
const LONGEST_NUMBER = 300_000;
const LONGEST_DECIMAL = 10_000;

export const parseExpression = (cursor: Cursor): Expression => cursor.nested(() => conditional(cursor));

function conditional(cursor: Cursor): Expression {
  const condition = binary(cursor, 1);
  if (!cursor.is('?')) return condition;
  const at = cursor.next();
  const then = parseExpression(cursor);
  cursor.expect(':', 'between the two values of "?"');
  return { kind: 'conditional', at, condition, then, otherwise: parseExpression(cursor) };
}

function binary(cursor: Cursor, least: number): Expression {
  let left = unary(cursor);
  for (let terms = 0; ; terms++) {
    if (terms > MOST_TERMS)
      throw new GiveUp(
        'too-deep',
        cursor.token,
        `The expression has more than ${MOST_TERMS} terms in a row. Divide it with brackets or wires.`,
      );
    if (cursor.is('inside') && INSIDE_STRENGTH >= least) {
      left = inside(cursor, left);
      continue;
    }
    const operator = cursor.token.kind === 'symbol' ? cursor.token.text : '';
    const strength = own(STRENGTH, operator) ?? 0;
    if (strength < least) return left;
    const at = cursor.next();
    left = { kind: 'binary', at, operator, left, right: binary(cursor, strength + 1) };
  }
}

function unary(cursor: Cursor): Expression {
  if (cursor.token.kind === 'symbol' && UNARY.has(cursor.token.text)) {
    const at = cursor.next();
    return { kind: 'unary', at, operator: at.text, operand: cursor.nested(() => unary(cursor)) };
  }
  return parseSelects(cursor, primary(cursor));
}

/** `value inside {a, b, [low:high]}`. */
function inside(cursor: Cursor, value: Expression): Expression {
  const at = cursor.next();
  cursor.expect('{', 'after "inside"');
  const among: (Expression | Range)[] = [];
  do among.push(cursor.is('[') ? (parseRange(cursor) as Range) : parseExpression(cursor));
  while (cursor.accept(','));
  cursor.expect('}', 'to close "inside"');
  return { kind: 'inside', at, value, among };
}

/** Indexes, ranges and fields behind a name. */
export function parseSelects(cursor: Cursor, start: Expression): Expression {
  let base = start;
  for (;;) {
    if (cursor.is('.') && cursor.ahead(1)?.kind === 'word') {
      cursor.next();
      const at = cursor.next();
      base = cursor.is('(')
        ? { kind: 'method', at, base, name: at.text, arguments: argumentList(cursor) }
        : { kind: 'member', at, base, name: at.text };
      continue;
    }
    if (!cursor.is('[')) return base;
    const at = cursor.next();
    const first = parseExpression(cursor);
    if (cursor.accept(':')) base = { kind: 'range', at, base, high: first, low: parseExpression(cursor) };
    else if (cursor.is('+:') || cursor.is('-:')) {
      const up = cursor.next().text === '+:';
      base = { kind: 'indexed-range', at, base, start: first, width: parseExpression(cursor), up };
    } else base = { kind: 'index', at, base, index: first };
    cursor.expect(']', 'to close the index');
  }
}

/** A name, a number or a bracket, with the names behind it but no index. */
export function parsePrimary(cursor: Cursor): Expression {
  let base = primary(cursor);
  for (;;) {
    if (cursor.is('.') && cursor.ahead(1)?.kind === 'word') {
      cursor.next();
      const at = cursor.next();
      base = { kind: 'member', at, base, name: at.text };
    } else if (cursor.is('[') && base.kind !== 'number') {
      const at = cursor.next();
      base = { kind: 'index', at, base, index: parseExpression(cursor) };
      cursor.expect(']', 'to close the index');
    } else return base;
  }
}

function primary(cursor: Cursor): Expression {
  const { token } = cursor;
  if (token.kind === 'number') {
    cursor.next();
    const number = parseNumber(token.text, token);
    return cursor.is("'") && cursor.ahead(1)?.text === '(' ? cast(cursor, number) : number;
  }
  if (token.kind === 'string') {
    cursor.next();
    const text = unescapeText(token.text.slice(1, -1));
    if (text.length * 8 > MOST_BITS)
      throw new GiveUp('string-width', token, `A string of ${text.length} characters has more than ${MOST_BITS} bits.`);
    return { kind: 'string', at: token, text };
  }
  if (token.kind === 'system') {
    cursor.next();
    return { kind: 'call', at: token, name: token.text, arguments: cursor.is('(') ? argumentList(cursor, true) : [] };
  }
  if (cursor.accept('(')) {
    let inner = parseExpression(cursor);
    // Of least, typical and greatest the typical one is taken. @source IEEE 1364-2005, clause 5.3
    if (cursor.accept(':')) {
      inner = parseExpression(cursor);
      cursor.expect(':', 'before the greatest value');
      parseExpression(cursor);
    }
    cursor.expect(')', 'to close the bracket');
    return cursor.is("'") && cursor.ahead(1)?.text === '(' ? cast(cursor, inner) : inner;
  }
  if (cursor.is('{')) return braces(cursor);
  if (cursor.is("'") && cursor.ahead(1)?.text === '{') return pattern(cursor);
  if (cursor.is('signed') || cursor.is('unsigned')) return cast(cursor, cursor.next().text as 'signed' | 'unsigned');
  const type = cursor.typeHere(cursor, false);
  if (type) return cursor.is("'") ? cast(cursor, type) : { kind: 'type', at: token, type };
  const first = cursor.name('an expression');
  const inner = cursor.accept('::') ? cursor.name('a name of the package') : null;
  const name = (inner ?? first).text;
  const from = inner ? { package: first.text } : {};
  if (cursor.is('(')) return { kind: 'call', at: first, name, arguments: argumentList(cursor), ...from };
  if (cursor.is("'") && cursor.ahead(1)?.text === '(') return cast(cursor, { kind: 'name', at: first, name, ...from });
  return { kind: 'name', at: first, name, ...from };
}

function cast(cursor: Cursor, to: (Expression & { kind: 'cast' })['to']): Expression {
  const at = cursor.expect("'", 'after the type of the cast');
  if (cursor.is('{')) return { kind: 'cast', at, to, value: patternBody(cursor, at) };
  cursor.expect('(', 'before the value of the cast');
  const value = parseExpression(cursor);
  cursor.expect(')', 'after the value of the cast');
  return { kind: 'cast', at, to, value };
}

const pattern = (cursor: Cursor): Expression => patternBody(cursor, cursor.next());

function patternBody(cursor: Cursor, at: Place): Expression {
  cursor.expect('{', 'to open the pattern');
  const parts: { key: string | null; value: Expression }[] = [];
  do {
    const keyed = cursor.ahead(1)?.text === ':' && cursor.token.kind === 'word';
    const key = keyed ? cursor.next().text : null;
    if (keyed) cursor.next();
    parts.push({ key, value: parseExpression(cursor) });
  } while (cursor.accept(','));
  cursor.expect('}', 'to close the pattern');
  return { kind: 'pattern', at, parts };
}

function argumentList(cursor: Cursor, inQuery = false): Expression[] {
  cursor.expect('(', 'before the arguments');
  const values: Expression[] = [];
  if (cursor.accept(')')) return values;
  do {
    const at = cursor.token;
    if (cursor.is(',') || cursor.is(')')) {
      values.push({ kind: 'nothing', at });
      continue;
    }
    const type = inQuery ? cursor.typeHere(cursor, true) : null;
    values.push(type ? { kind: 'type', at, type } : parseExpression(cursor));
  } while (cursor.accept(','));
  cursor.expect(')', 'after the arguments');
  return values;
}

function braces(cursor: Cursor): Expression {
  const at = cursor.next();
  if (cursor.is('<<') || cursor.is('>>')) return stream(cursor, at);
  const first = parseExpression(cursor);
  if (cursor.is('{')) {
    const part = braces(cursor);
    cursor.expect('}', 'to close the replication');
    return { kind: 'replication', at, count: first, part };
  }
  const parts = [first];
  while (cursor.accept(',')) parts.push(parseExpression(cursor));
  cursor.expect('}', 'to close the concatenation');
  return { kind: 'concatenation', at, parts };
}

/** @source IEEE 1800, streaming operators */
function stream(cursor: Cursor, at: Place): Expression {
  const right = cursor.next().text === '>>';
  const slice: Expression | DataType | null = cursor.is('{')
    ? null
    : (cursor.typeHere(cursor, true) ?? parseExpression(cursor));
  cursor.expect('{', 'before the parts of the stream');
  const parts = [parseExpression(cursor)];
  while (cursor.accept(',')) parts.push(parseExpression(cursor));
  cursor.expect('}', 'after the parts of the stream');
  cursor.expect('}', 'to close the stream');
  return { kind: 'stream', at, right, slice, parts };
}

/** `[high:low]`, where one is written. */
export function parseRange(cursor: Cursor): Range | null {
  if (!cursor.accept('[')) return null;
  const high = parseExpression(cursor);
  if (cursor.accept(']')) {
    // SystemVerilog's [n] for an array from 0 to n - 1.
    const zero: NumberLiteral = { ...one(high.at), value: 0n };
    return { high: zero, low: { kind: 'binary', at: high.at, operator: '-', left: high, right: one(high.at) } };
  }
  cursor.expect(':', 'in the range');
  const low = parseExpression(cursor);
  cursor.expect(']', 'to close the range');
  return { high, low };
}

const BASES: Readonly<Record<string, number>> = { b: 1, o: 3, h: 4 };

/** @source IEEE 1364-2005, clause 3.5 */
function parseNumber(text: string, at: Place): Expression {
  const compact = text.replace(/[\s_]/g, '').toLowerCase();
  const fill = /^'([01xz])$/.exec(compact);
  if (fill) {
    const one = fill[1] === '1' ? 1n : 0n;
    return {
      kind: 'number',
      at,
      width: 1,
      signed: false,
      value: one,
      unknown: fill[1] === 'x' ? 1n : 0n,
      floating: fill[1] === 'z' ? 1n : 0n,
      fill: true,
    };
  }
  const based = /^(\d*)'(s?)([bodh])([0-9a-fxz?]+)$/.exec(compact);
  if (!based) {
    if (compact.length > LONGEST_DECIMAL)
      throw new GiveUp(
        'number-width',
        at,
        `A decimal number of ${compact.length} digits is too long; write it in hexadecimal.`,
      );
    if (!/^\d+$/.test(compact)) return realNumber(compact, text, at);
    return { kind: 'number', at, width: null, signed: true, value: BigInt(compact), unknown: 0n, floating: 0n };
  }
  const [, size, sign, base, digits] = based as unknown as [string, string, string, string, string];
  const width = size === '' ? null : Number(size);
  if (compact.length > LONGEST_NUMBER)
    throw new GiveUp(
      'number-width',
      at,
      `A number of ${compact.length} digits is too long; at most ${LONGEST_NUMBER} are taken.`,
    );
  if (width !== null && (width < 1 || width > WIDEST_NUMBER))
    throw new GiveUp('number-width', at, `A number of ${size} bits is out of range: 1 to ${WIDEST_NUMBER}.`);
  const bits = base === 'd' ? decimalDigits(digits, text, at) : baseDigits(digits, BASES[base] as number, text, at);
  const limit = width ?? 32;
  const extended = extendUnknown(bits, digits, base, limit);
  const cut = (value: bigint) => BigInt.asUintN(limit, value);
  return {
    kind: 'number',
    at,
    width,
    signed: sign === 's',
    value: cut(extended.value),
    unknown: cut(extended.unknown),
    floating: cut(extended.floating),
  };
}

const SECONDS: Readonly<Record<string, number>> = { s: 1, ms: 1e-3, us: 1e-6, ns: 1e-9, ps: 1e-12, fs: 1e-15 };

/** `1.5e3`, or with a unit of time `10ns`. @source IEEE 1364-2005, clause 3.5.2 */
function realNumber(compact: string, text: string, at: Place): Expression {
  const [, digits, unit] = /^(\d+(?:\.\d+)?(?:e[+-]?\d+)?)([munpf]?s)?$/.exec(compact) ?? [];
  if (digits === undefined) throw new GiveUp('real-number', at, `"${text}" is no number.`);
  return unit === undefined
    ? { kind: 'real', at, value: Number(digits) }
    : { kind: 'time', at, seconds: Number(digits) * (own(SECONDS, unit) as number) };
}

interface Digits {
  readonly value: bigint;
  readonly unknown: bigint;
  readonly floating: bigint;
}

function decimalDigits(digits: string, text: string, at: Place): Digits {
  if (/^[xz?]$/.test(digits))
    return digits === 'x' ? { value: 0n, unknown: 1n, floating: 0n } : { value: 0n, unknown: 0n, floating: 1n };
  if (digits.length > LONGEST_DECIMAL)
    throw new GiveUp(
      'number-width',
      at,
      `A decimal number of ${digits.length} digits is too long; write it in hexadecimal.`,
    );
  if (!/^\d+$/.test(digits)) throw new GiveUp('number', at, `"${text}" is not a decimal number.`);
  return { value: BigInt(digits), unknown: 0n, floating: 0n };
}

function baseDigits(digits: string, bits: number, text: string, at: Place): Digits {
  const wrong = [...digits].find((digit) => !/[xz?]/.test(digit) && Number.parseInt(digit, 16) >= 2 ** bits);
  if (wrong !== undefined)
    throw new GiveUp('number', at, `The digit "${wrong}" does not belong in "${text.slice(0, 40)}".`);
  const prefix = { 1: '0b', 3: '0o', 4: '0x' }[bits] as string;
  const all = (2 ** bits - 1).toString(16);
  const of = (from: RegExp) => BigInt(prefix + digits.replace(/./g, (digit) => (from.test(digit) ? all : '0')));
  return { value: BigInt(prefix + digits.replace(/[xz?]/g, '0')), unknown: of(/x/), floating: of(/[z?]/) };
}

/** A number whose leftmost digit is x or z is filled up with it. */
function extendUnknown(bits: Digits, digits: string, base: string, width: number): Digits {
  const have = BigInt(base === 'd' ? 1 : digits.length * (BASES[base] as number));
  const room = BigInt(width) - have;
  if (room <= 0n) return bits;
  const fill = ((1n << room) - 1n) << have;
  if (digits[0] === 'x') return { ...bits, unknown: bits.unknown | fill };
  if (digits[0] === 'z' || digits[0] === '?') return { ...bits, floating: bits.floating | fill };
  return bits;
}

/** @source IEEE 1364-2005, clause 3.6.3; a line may be continued by a backslash at its end */
const unescapeText = (text: string): string =>
  text.replace(/\\([0-7]{1,3}|\r?\n|[\s\S])/g, (_, c: string) => {
    if (/^[0-7]/.test(c)) return String.fromCharCode(Number.parseInt(c, 8) & 0xff);
    if (c.endsWith('\n')) return '';
    return c === 'n' ? '\n' : c === 't' ? '\t' : c;
  });
