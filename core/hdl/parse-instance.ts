import type { Connection, Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { parseExpression, parseRange } from './parse-expression.ts';

function connections(cursor: Cursor): { list: Connection[]; wildcard: boolean } {
  cursor.expect('(', 'before the connections');
  const list: Connection[] = [];
  let wildcard = false;
  while (!cursor.accept(')')) {
    const at = cursor.token;
    if (cursor.accept('.*')) wildcard = true;
    else if (cursor.accept('.')) {
      const name = cursor.name('a port name');
      if (cursor.accept('(')) {
        const value = cursor.is(')') ? null : parseExpression(cursor);
        cursor.expect(')', 'to close the connection');
        list.push({ at, name: name.text, value });
      } else list.push({ at, name: name.text, value: { kind: 'name', at: name, name: name.text } });
    } else list.push({ at, name: null, value: cursor.is(',') || cursor.is(')') ? null : parseExpression(cursor) });
    if (!cursor.is(')')) cursor.expect(',', 'between connections');
  }
  return { list, wildcard };
}

/** One or several instances of a module. */
export function instances(cursor: Cursor): Item[] {
  const module = cursor.name('a declaration, an assignment, an always block or an instance');
  const overrides = cursor.accept('#') ? connections(cursor).list : [];
  const items: Item[] = [];
  do {
    const name = cursor.name('an instance name');
    const range = parseRange(cursor);
    const ports = connections(cursor);
    items.push({
      kind: 'instance',
      at: name,
      module: module.text,
      name: name.text,
      range,
      parameters: overrides,
      ports: ports.list,
      wildcard: ports.wildcard,
    });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the instance');
  return items;
}
