import type { Connection, Delay, Item, Strength } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { parseExpression, parsePrimary, parseRange } from './expression.ts';
import { parseStrength } from './timing.ts';

function connections(cursor: Cursor): { list: Connection[]; wildcard: boolean } {
  cursor.expect('(', 'before the connections');
  const list: Connection[] = [];
  let wildcard = false;
  while (!cursor.accept(')')) {
    cursor.attributes();
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

/** What stands between the name of a module and that of its instance: parameters, or for a primitive its delays. */
function overridden(cursor: Cursor): { parameters: Connection[]; delay: Delay | null; strength: Strength | null } {
  const strength = parseStrength(cursor);
  if (!cursor.accept('#')) return { parameters: [], delay: null, strength };
  if (!cursor.is('(')) return { parameters: [], delay: [parsePrimary(cursor)], strength };
  const parameters = connections(cursor).list;
  const values = parameters.map(({ value }) => value);
  const delay = parameters.every(({ name }) => name === null) ? values.filter((value) => value !== null) : null;
  return { parameters, delay, strength };
}

/** One or several instances of a module or a primitive. */
export function instances(cursor: Cursor): Item[] {
  const module = cursor.name('a declaration, an assignment, an always block or an instance');
  const overrides = overridden(cursor);
  const items: Item[] = [];
  do {
    // Those of a primitive need no name.
    const name = cursor.is('(') ? { ...module, text: '' } : cursor.name('an instance name');
    const range = parseRange(cursor);
    const ports = connections(cursor);
    items.push({
      kind: 'instance',
      at: name,
      module: module.text,
      name: name.text,
      range,
      ...overrides,
      ports: ports.list,
      wildcard: ports.wildcard,
    });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the instance');
  return items;
}
