import type { Direction, Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import type { Token } from './lexer.ts';
import { DIRECTIONS, netAndType, parseParameter } from './declaration.ts';
import { parseExpression } from './expression.ts';
import { beginsType, parseRanges, parseType } from './type.ts';

/** `#(parameter W = 8, ...)`. */
export function parameterHeader(cursor: Cursor, items: Item[]): void {
  cursor.expect('(', 'after "#"');
  while (!cursor.accept(')')) {
    const local = cursor.is('localparam');
    if (local || cursor.is('parameter')) cursor.next();
    items.push(parseParameter(cursor, local));
    if (!cursor.is(')')) cursor.expect(',', 'between parameters');
  }
}

type PortType = Omit<Item & { readonly kind: 'declaration' }, 'kind' | 'at' | 'keep' | 'names' | 'direction'> & {
  readonly direction: Direction;
};

/**
 * Ports of a module, or arguments of a function: with their types, or only names whose declarations follow. `first` is
 * the direction where none is written.
 */
export function portHeader(
  cursor: Cursor,
  ports: { name: string; at: Token }[],
  items: Item[],
  first: Direction | null,
): void {
  let last = null as PortType | null;
  while (!cursor.accept(')')) {
    const keep = cursor.attributes().keep;
    if (cursor.isAny(DIRECTIONS)) last = portType(cursor, cursor.next().text as Direction);
    else if (first !== null && (last === null || beginsType(cursor))) last = portType(cursor, last?.direction ?? first);
    else if (last !== null && (cursor.is('[') || beginsType(cursor))) last = { ...last, type: parseType(cursor) };
    const name = cursor.name('a port name');
    ports.push({ name: name.text, at: name });
    if (last) {
      const dimensions = parseRanges(cursor);
      const value = cursor.accept('=') ? parseExpression(cursor) : null;
      items.push({
        kind: 'declaration',
        at: name,
        ...last,
        keep,
        names: [{ at: name, name: name.text, dimensions, value }],
      });
    }
    if (!cursor.is(')')) cursor.expect(',', 'between ports');
  }
}

function portType(cursor: Cursor, direction: Direction): PortType {
  const { net, ...rest } = netAndType(cursor);
  return { ...rest, net: net === 'wire' ? 'wire' : 'reg', direction };
}
