import { own } from '../../lists.ts';
import type { DataType, Declarator, Delay, Direction, Item, Resolution, Strength } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';
import { parseExpression } from './expression.ts';
import { parseDelay, parseStrength } from './timing.ts';
import { beginsType, parseRanges, parseType } from './type.ts';

export const DIRECTIONS = new Set(['input', 'output', 'inout']);
/** @source IEEE 1364-2005, clause 4.6 */
const WIRES: Readonly<Record<string, Resolution>> = {
  wire: 'wire',
  tri: 'wire',
  uwire: 'wire',
  wand: 'wand',
  triand: 'wand',
  wor: 'wor',
  trior: 'wor',
  tri0: 'tri0',
  tri1: 'tri1',
  trireg: 'trireg',
  supply0: 'supply0',
  supply1: 'supply1',
};
const CHARGES = new Set(['small', 'medium', 'large']);
const STORAGE = new Set(['var', 'automatic', 'static', 'const']);

type Net = (Item & { kind: 'declaration' })['net'];

export function parseParameter(cursor: Cursor, local: boolean): Item {
  if (cursor.is('type'))
    throw new GiveUp(
      'not-taken',
      cursor.token,
      'A type as a parameter is not taken. Give the width as a parameter instead.',
    );
  const typed = beginsType(cursor) || cursor.is('[') || cursor.is('signed') || cursor.is('unsigned');
  const type = typed ? parseType(cursor) : null;
  const name = cursor.name('a parameter name');
  if (cursor.is('['))
    throw new GiveUp(
      'not-taken',
      name,
      `The parameter "${name.text}" is an array. Make it one wide word and take parts of it.`,
    );
  cursor.expect('=', 'after the parameter name');
  return { kind: 'parameter', at: name, local, type, name: name.text, value: parseExpression(cursor) };
}

export function beginsDeclaration(cursor: Cursor): boolean {
  return (
    cursor.isAny(DIRECTIONS) ||
    isNet(cursor) ||
    begins(cursor, STORAGE) ||
    cursor.is('genvar') ||
    cursor.is('parameter') ||
    cursor.is('localparam') ||
    cursor.is('typedef') ||
    (cursor.is('import') && cursor.ahead(2)?.text === '::') ||
    beginsType(cursor)
  );
}

export function parseDeclaration(cursor: Cursor, keep: boolean): Item[] {
  const at = cursor.token;
  if (cursor.is('parameter') || cursor.is('localparam')) return parameters(cursor);
  if (cursor.accept('typedef')) return [typedef(cursor)];
  if (cursor.accept('import')) return imports(cursor);
  const direction = cursor.isAny(DIRECTIONS) ? (cursor.next().text as Direction) : null;
  const kind = netAndType(cursor);
  const names: Declarator[] = [];
  do {
    const name = cursor.name('a name');
    const dimensions = parseRanges(cursor);
    const value = cursor.accept('=') ? parseExpression(cursor) : null;
    names.push({ at: name, name: name.text, dimensions, value });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the declaration');
  return [{ kind: 'declaration', at, direction, keep, names, ...kind }];
}

/** `wire signed [3:0]`, `logic [3:0]`, `state_t`, or only a range. */
export function netAndType(cursor: Cursor): DeclaredKind {
  while (cursor.isAny(STORAGE)) cursor.next();
  if (cursor.accept('genvar')) return plainKind('genvar', { kind: 'integer', width: 32, signed: true });
  const resolution = isNet(cursor) ? own(WIRES, cursor.token.text) : undefined;
  if (resolution !== undefined) {
    cursor.next();
    const strength = parseStrength(cursor);
    if (cursor.is('(') && CHARGES.has(cursor.ahead(1)?.text ?? '')) for (let i = 0; i < 3; i++) cursor.next();
    const type = parseType(cursor);
    return { net: 'wire', type, resolution, strength, delay: parseDelay(cursor) };
  }
  const variable = beginsType(cursor);
  const type = parseType(cursor);
  return plainKind(type.kind === 'integer' ? 'integer' : variable ? 'reg' : 'wire', type);
}

type DeclaredKind = {
  readonly net: Net;
  readonly type: DataType;
  readonly resolution: Resolution;
  readonly strength: Strength | null;
  readonly delay: Delay | null;
};

const plainKind = (net: Net, type: DataType): DeclaredKind => ({
  net,
  type,
  resolution: 'wire',
  strength: null,
  delay: null,
});

const isNet = (cursor: Cursor): boolean => own(WIRES, cursor.token.text) !== undefined && !cursor.token.escaped;

/** `var`, `static` and the like are names in older sources. */
const begins = (cursor: Cursor, words: ReadonlySet<string>): boolean =>
  cursor.isAny(words) && cursor.ahead(1)?.kind === 'word';

function typedef(cursor: Cursor): Item {
  const type = parseType(cursor);
  const name = cursor.name('a name for the type');
  if (cursor.is('['))
    throw new GiveUp('not-taken', name, 'A type for an unpacked array is not taken. Put the range before the name.');
  cursor.expect(';', 'after the typedef');
  cursor.types.add(name.text);
  return { kind: 'typedef', at: name, name: name.text, type };
}

function imports(cursor: Cursor): Item[] {
  const items: Item[] = [];
  do {
    const at = cursor.name('a package');
    cursor.expect('::', 'after the package');
    const name = cursor.accept('*') ? null : cursor.name('a name of the package').text;
    items.push({ kind: 'import', at, package: at.text, name });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the import');
  return items;
}

function parameters(cursor: Cursor): Item[] {
  const local = cursor.next().text === 'localparam';
  const items: Item[] = [];
  const first = parseParameter(cursor, local);
  items.push(first);
  while (cursor.accept(',')) {
    const next = parseParameter(cursor, local);
    items.push(
      next.kind === 'parameter' && first.kind === 'parameter' && !next.type ? { ...next, type: first.type } : next,
    );
  }
  cursor.expect(';', 'after the parameters');
  return items;
}
