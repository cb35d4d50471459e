import type { Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { beginsDeclaration, parseDeclaration } from './declaration.ts';
import { portHeader } from './ports.ts';
import { parseStatement } from './statement.ts';
import { parseType } from './type.ts';

/** A function, behind its keyword. SystemVerilog lets several statements follow without begin and end. */
export function functionItem(cursor: Cursor): Item {
  const automatic = isAutomatic(cursor);
  const type = cursor.accept('void') ? null : parseType(cursor);
  const name = cursor.name('a function name');
  const { items, body } = routine(cursor, 'function');
  return type
    ? { kind: 'function', at: name, name: name.text, automatic, type, items, body }
    : { kind: 'task', at: name, name: name.text, automatic, isVoid: true, items, body };
}

export function taskItem(cursor: Cursor): Item {
  const automatic = isAutomatic(cursor);
  const name = cursor.name('a task name');
  return { kind: 'task', at: name, name: name.text, automatic, isVoid: false, ...routine(cursor, 'task') };
}

function isAutomatic(cursor: Cursor): boolean {
  if (cursor.accept('automatic')) return true;
  cursor.accept('static');
  return false;
}

function routine(
  cursor: Cursor,
  what: 'function' | 'task',
): { items: Item[]; body: Extract<Item, { kind: 'task' }>['body'] } {
  const items: Item[] = [];
  if (cursor.accept('(')) portHeader(cursor, [], items, 'input');
  const at = cursor.expect(';', `after the ${what} header`);
  const body = [];
  while (!cursor.accept(`end${what}`)) {
    if (cursor.ended || cursor.is('endmodule')) throw cursor.unexpected(`"end${what}"`);
    cursor.attributes();
    if (beginsDeclaration(cursor)) items.push(...parseDeclaration(cursor, false));
    else body.push(parseStatement(cursor));
  }
  if (cursor.accept(':')) cursor.name(`the name of the ${what}`);
  return { items, body: { kind: 'block', at, name: null, declarations: [], body } };
}
