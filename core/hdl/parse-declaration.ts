import type { Declarator, Direction, Item, Range } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { parseExpression, parseRange } from './parse-expression.ts';

/** Words that begin a declaration, and what they declare. */
export const NETS: Readonly<Record<string, 'wire' | 'reg' | 'integer' | 'genvar'>> = {
  wire: 'wire', tri: 'wire', reg: 'reg', logic: 'reg', integer: 'integer', int: 'integer', genvar: 'genvar',
};
export const DIRECTIONS = new Set(['input', 'output', 'inout']);

export function parseParameter(cursor: Cursor, local: boolean): Item {
  if (cursor.is('integer') || cursor.is('int') || cursor.is('logic') || cursor.is('reg')) cursor.next();
  const signed = cursor.accept('signed');
  const range = parseRange(cursor);
  const name = cursor.name('a parameter name');
  cursor.expect('=', 'after the parameter name');
  return { kind: 'parameter', at: name, local, signed, range, name: name.text, value: parseExpression(cursor) };
}

/** Ranges behind a name, which make it an array. */
export function parseDimensions(cursor: Cursor): Range[] {
  const found: Range[] = [];
  for (let range = parseRange(cursor); range; range = parseRange(cursor)) found.push(range);
  return found;
}

export const beginsDeclaration = (cursor: Cursor): boolean =>
  cursor.isAny(DIRECTIONS) || (NETS[cursor.token.text] !== undefined && !cursor.token.escaped) || cursor.is('localparam') || cursor.is('parameter');

/** One declaration with all its names; also used inside blocks. */
export function parseDeclaration(cursor: Cursor): Item[] {
  const at = cursor.token;
  if (cursor.is('parameter') || cursor.is('localparam')) return parameters(cursor);
  let direction: Direction | null = null;
  let net: 'wire' | 'reg' | 'integer' | 'genvar' = 'wire';
  if (cursor.isAny(DIRECTIONS)) direction = cursor.next().text as Direction;
  const keyword = NETS[cursor.token.text];
  if (keyword && !cursor.token.escaped) {
    net = keyword;
    cursor.next();
  }
  const signed = cursor.accept('signed') || net === 'integer';
  const range = parseRange(cursor);
  const names: Declarator[] = [];
  do {
    const name = cursor.name('a name');
    names.push({ at: name, name: name.text, dimensions: parseDimensions(cursor), value: cursor.accept('=') ? parseExpression(cursor) : null });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the declaration');
  return [{ kind: 'declaration', at, net, direction, signed, range, names }];
}

function parameters(cursor: Cursor): Item[] {
  const local = cursor.next().text === 'localparam';
  const items: Item[] = [];
  const first = parseParameter(cursor, local);
  items.push(first);
  while (cursor.accept(',')) {
    const next = parseParameter(cursor, local);
    items.push(next.kind === 'parameter' && first.kind === 'parameter' && !next.range ? { ...next, range: first.range, signed: first.signed } : next);
  }
  cursor.expect(';', 'after the parameters');
  return items;
}
