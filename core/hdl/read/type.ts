import { own } from '../../lists.ts';
import type { DataType, EnumMember, Range, StructField } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';
import { parseExpression, parseRange } from './expression.ts';

/** Integer types and their bits. @source IEEE 1800, integer data types */
const INTEGERS: Readonly<
  Record<string, { readonly width: number; readonly signed: boolean; readonly twoState: boolean }>
> = {
  integer: { width: 32, signed: true, twoState: false },
  time: { width: 64, signed: false, twoState: false },
  int: { width: 32, signed: true, twoState: true },
  byte: { width: 8, signed: true, twoState: true },
  shortint: { width: 16, signed: true, twoState: true },
  longint: { width: 64, signed: true, twoState: true },
};
const REALS = new Set(['real', 'realtime', 'shortreal']);
/**
 * Words that always begin a type, and words that older sources also use as names: those only where a name or a range
 * follows.
 */
const SURE = new Set(['integer', 'logic', 'reg', 'enum', 'struct', 'real', 'realtime', 'time', 'event']);
const SOFT = new Set(['int', 'byte', 'shortint', 'longint', 'bit']);
const OTHERS = new Set(['shortreal', 'string']);
const REFUSED = new Set(['chandle', 'union', 'class', 'interface', 'virtual']);

/** True where a type is written out: not where only a range or nothing stands. */
export function beginsType(cursor: Cursor): boolean {
  const { token } = cursor;
  if (token.escaped) return false;
  if (SURE.has(token.text)) return true;
  const next = cursor.ahead(1);
  const named = next?.kind === 'word' || next?.text === '[' || next?.text === '{';
  const other = SOFT.has(token.text) || OTHERS.has(token.text) || REFUSED.has(token.text);
  return (other ? named : false) || beginsNamedType(cursor);
}

/** A name that a typedef made, or one inside a package, used where a declaration could stand. */
function beginsNamedType(cursor: Cursor): boolean {
  if (cursor.token.kind !== 'word') return false;
  if (cursor.ahead(1)?.text === '::') {
    const after = cursor.ahead(3);
    return (
      cursor.types.has(cursor.ahead(2)?.text ?? '') &&
      after !== undefined &&
      (after.kind === 'word' || after.text === '[')
    );
  }
  return cursor.types.has(cursor.token.text) && (cursor.ahead(1)?.kind === 'word' || cursor.ahead(1)?.text === '[');
}

/** A type; where none is written, bits of the range that stands there. */
export const parseType = (cursor: Cursor): DataType => cursor.nested(() => type(cursor));

function type(cursor: Cursor): DataType {
  const { token } = cursor;
  if (!beginsType(cursor)) return bits(cursor);
  if (REFUSED.has(token.text))
    throw new GiveUp(
      'not-taken',
      token,
      `The type "${token.text}" is not taken. Use logic, an integer type, an enum or a packed struct.`,
    );
  if (REALS.has(token.text) && cursor.accept(token.text)) return { kind: 'real' };
  if (cursor.accept('string')) return { kind: 'text' };
  if (cursor.accept('event')) return { kind: 'event' };
  const integer = own(INTEGERS, token.text);
  if (integer && token.kind === 'word') {
    cursor.next();
    const { width, twoState } = integer;
    return { kind: 'integer', width, signed: parseSign(cursor) ?? integer.signed, twoState };
  }
  if (cursor.accept('enum')) return parseEnum(cursor);
  if (cursor.accept('struct')) return parseStruct(cursor);
  if (cursor.is('logic') || cursor.is('reg') || cursor.is('bit')) {
    const twoState = cursor.next().text === 'bit';
    return bits(cursor, twoState);
  }
  return parseNamed(cursor);
}

/** The name of a type, in a cast or a declaration. */
function parseNamed(cursor: Cursor): DataType {
  const first = cursor.name('a type');
  const inner = cursor.accept('::') ? cursor.name('a type') : null;
  return {
    kind: 'named',
    at: first,
    package: inner ? first.text : null,
    name: (inner ?? first).text,
    dimensions: parseRanges(cursor),
  };
}

function bits(cursor: Cursor, twoState = false): DataType {
  const signed = parseSign(cursor) ?? false;
  // Says whether a vector may be taken apart, which is always so. @source IEEE 1364-2005, clause 4.3.2
  if (!cursor.accept('vectored')) cursor.accept('scalared');
  return { kind: 'bits', signed, dimensions: parseRanges(cursor), twoState };
}

function parseSign(cursor: Cursor): boolean | null {
  if (cursor.accept('signed')) return true;
  return cursor.accept('unsigned') ? false : null;
}

export function parseRanges(cursor: Cursor): Range[] {
  const found: Range[] = [];
  for (let range = parseRange(cursor); range; range = parseRange(cursor)) found.push(range);
  return found;
}

function parseEnum(cursor: Cursor): DataType {
  const base: DataType = cursor.is('{') ? { kind: 'integer', width: 32, signed: true } : parseType(cursor);
  cursor.expect('{', 'before the names of the enum');
  const members: EnumMember[] = [];
  do {
    const at = cursor.name('a name of the enum');
    const range = parseRange(cursor);
    const value = cursor.accept('=') ? parseExpression(cursor) : null;
    if (range) throw new GiveUp('not-taken', at, 'A numbered range of enum names is not taken. Write the names out.');
    members.push({ at, name: at.text, value });
  } while (cursor.accept(','));
  cursor.expect('}', 'to close the enum');
  return { kind: 'enum', base, members, dimensions: parseRanges(cursor) };
}

function parseStruct(cursor: Cursor): DataType {
  const { token } = cursor;
  if (!cursor.accept('packed'))
    throw new GiveUp(
      'not-taken',
      token,
      'Only packed structures are taken: write "struct packed". The fields then have places in one word.',
    );
  const signed = parseSign(cursor) ?? false;
  cursor.expect('{', 'before the fields');
  const fields: StructField[] = [];
  while (!cursor.accept('}')) {
    if (cursor.ended) throw new GiveUp('syntax', token, 'This "struct" is never closed by "}".');
    const own = parseType(cursor);
    do {
      const at = cursor.name('a field name');
      const [dimension] = parseRanges(cursor);
      if (dimension) throw new GiveUp('not-taken', at, 'A field of a packed structure has its ranges before its name.');
      fields.push({ at, name: at.text, type: own });
    } while (cursor.accept(','));
    cursor.expect(';', 'after the field');
  }
  return { kind: 'struct', signed, fields, dimensions: parseRanges(cursor) };
}

/** A type of the language by its word alone, which in a place for expressions nothing need follow. */
function builtInType(cursor: Cursor): DataType {
  const integer = own(INTEGERS, cursor.token.text);
  if (!integer) return parseType(cursor);
  cursor.next();
  return { kind: 'integer', ...integer };
}

/**
 * A type in a place for expressions: before the mark of a cast, and as the argument of a query such as `$bits(word_t)`.
 */
export function typeInExpression(cursor: Cursor, inQuery: boolean): DataType | null {
  const { token } = cursor;
  if (token.kind !== 'word' || token.escaped) return null;
  const follows = cursor.ahead(1)?.text;
  const builtIn = token.text in INTEGERS || token.text === 'logic' || token.text === 'bit' || token.text === 'reg';
  if (builtIn) return follows === "'" || (inQuery && (follows === ')' || follows === '[')) ? builtInType(cursor) : null;
  const scoped = cursor.ahead(1)?.text === '::';
  const name = scoped ? cursor.ahead(2)?.text : token.text;
  const after = cursor.ahead(scoped ? 3 : 1)?.text;
  return cursor.types.has(name ?? '') && (after === "'" || (inQuery && after === ')')) ? parseNamed(cursor) : null;
}
