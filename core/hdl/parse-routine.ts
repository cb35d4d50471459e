import type { Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { beginsDeclaration, parseDeclaration } from './parse-declaration.ts';
import { portHeader } from './parse-ports.ts';
import { parseStatement } from './parse-statement.ts';
import { parseType } from './parse-type.ts';

/** A function, behind its keyword. SystemVerilog lets several statements follow without begin and end. */
export function functionItem(cursor: Cursor): Item {
  if (!cursor.accept('automatic')) cursor.accept('static');
  const type = cursor.accept('void') ? null : parseType(cursor);
  const name = cursor.name('a function name');
  const { items, body } = routine(cursor, 'function');
  return type
    ? { kind: 'function', at: name, name: name.text, type, items, body }
    : { kind: 'task', at: name, name: name.text, items, body };
}

export function taskItem(cursor: Cursor): Item {
  if (!cursor.accept('automatic')) cursor.accept('static');
  const name = cursor.name('a task name');
  return { kind: 'task', at: name, name: name.text, ...routine(cursor, 'task') };
}

function routine(
  cursor: Cursor,
  what: 'function' | 'task',
): { items: Item[]; body: Extract<Item, { kind: 'task' }>['body'] } {
  const items: Item[] = [];
  if (cursor.accept('(')) portHeader(cursor, [], items, 'input');
  const at = cursor.expect(';', `after the ${what} header`);
  while (beginsDeclaration(cursor)) items.push(...parseDeclaration(cursor, false));
  const body = [];
  while (!cursor.accept(`end${what}`)) {
    if (cursor.ended || cursor.is('endmodule')) throw cursor.unexpected(`"end${what}"`);
    body.push(parseStatement(cursor));
  }
  if (cursor.accept(':')) cursor.name(`the name of the ${what}`);
  return { items, body: { kind: 'block', at, name: null, declarations: [], body } };
}
