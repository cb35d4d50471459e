import type { Primitive, PrimitiveRow } from './ast.ts';
import type { Cursor } from './cursor.ts';
import type { Token } from './lexer.ts';
import { GiveUp } from './message.ts';

/** A primitive given by a table. @source IEEE 1364-2005, clause 8.1 */
export function parsePrimitive(cursor: Cursor): Primitive {
  const at = cursor.next();
  const name = cursor.name('the name of the primitive');
  const ports: string[] = [];
  let sequential = false;
  let initial: Primitive['initial'] = 'x';
  cursor.expect('(', 'before the ports');
  do {
    while (cursor.isAny(WORDS)) if (cursor.next().text === 'reg') sequential = true;
    ports.push(cursor.name('a port').text);
    if (cursor.accept('=')) initial = levelOf(cursor.next());
  } while (cursor.accept(','));
  cursor.expect(')', 'after the ports');
  cursor.expect(';', 'after the ports');
  while (!cursor.is('table')) {
    if (cursor.ended || cursor.is('endprimitive')) throw cursor.unexpected('"table"');
    if (cursor.accept('initial')) {
      cursor.name('the output');
      cursor.expect('=', 'after the output');
      initial = levelOf(cursor.next());
    } else if (cursor.is('reg')) sequential = true;
    while (!cursor.ended && !cursor.accept(';')) cursor.next();
  }
  cursor.next();
  const [output = '', ...inputs] = ports;
  const rows: PrimitiveRow[] = [];
  while (!cursor.accept('endtable')) {
    if (cursor.ended) throw new GiveUp('syntax', at, `The table of "${name.text}" is never closed by "endtable".`);
    rows.push(row(cursor, inputs.length, sequential));
  }
  cursor.expect('endprimitive', 'after the table');
  if (cursor.accept(':')) cursor.name('the name of the primitive');
  return { at: name, name: name.text, output, inputs, sequential, initial, rows };
}

const WORDS = new Set(['output', 'input', 'reg']);

const levelOf = (token: Token): Primitive['initial'] => {
  const digit = token.text.slice(-1).toLowerCase();
  return digit === '0' || digit === '1' ? digit : 'x';
};

/** `0 1 ? : 1 ;` or `r 0 : ? : 1 ;`, with edges such as `(01)` too. Signs may stand together: `01? : 1;`. */
function row(cursor: Cursor, count: number, sequential: boolean): PrimitiveRow {
  const at = cursor.token;
  const parts: string[] = [''];
  while (!cursor.is(';')) {
    if (cursor.ended || cursor.is('endtable')) throw new GiveUp('syntax', at, 'This row of the table has no end.');
    const { text } = cursor.next();
    if (text === ':') parts.push('');
    else parts[parts.length - 1] += text.toLowerCase();
  }
  cursor.next();
  const wanted = sequential ? 3 : 2;
  const inputs = [...(parts[0] ?? '').matchAll(/\(([01x?b])([01x?b])\)|([01x?brfpn*])/g)].map(
    ([, from, to, sign]) => sign ?? `${from}${to}`,
  );
  if (parts.length !== wanted || inputs.length !== count)
    throw new GiveUp(
      'syntax',
      at,
      `A row of this table has ${count} inputs${sequential ? ', the state' : ''} and the output, each part behind a ":".`,
    );
  return { at, inputs, state: sequential ? (parts[1] ?? null) : null, output: parts.at(-1) ?? 'x' };
}
