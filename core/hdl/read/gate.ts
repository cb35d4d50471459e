import { own } from '../../lists.ts';
import type { Expression, Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { parseExpression, parseRange } from './expression.ts';
import { parseDelay, parseStrength } from './timing.ts';

/**
 * Gates and switches of the language with the terminals they take at least; of those with `outputs` all but the last
 * terminal are outputs.
 *
 * @source IEEE 1364-2005, clause 7
 */
const GATES: Readonly<Record<string, { readonly least: number; readonly most: number }>> = {
  and: { least: 2, most: Number.POSITIVE_INFINITY },
  nand: { least: 2, most: Number.POSITIVE_INFINITY },
  or: { least: 2, most: Number.POSITIVE_INFINITY },
  nor: { least: 2, most: Number.POSITIVE_INFINITY },
  xor: { least: 2, most: Number.POSITIVE_INFINITY },
  xnor: { least: 2, most: Number.POSITIVE_INFINITY },
  buf: { least: 2, most: Number.POSITIVE_INFINITY },
  not: { least: 2, most: Number.POSITIVE_INFINITY },
  bufif0: { least: 3, most: 3 },
  bufif1: { least: 3, most: 3 },
  notif0: { least: 3, most: 3 },
  notif1: { least: 3, most: 3 },
  nmos: { least: 3, most: 3 },
  pmos: { least: 3, most: 3 },
  rnmos: { least: 3, most: 3 },
  rpmos: { least: 3, most: 3 },
  cmos: { least: 4, most: 4 },
  rcmos: { least: 4, most: 4 },
  tran: { least: 2, most: 2 },
  rtran: { least: 2, most: 2 },
  tranif0: { least: 3, most: 3 },
  tranif1: { least: 3, most: 3 },
  rtranif0: { least: 3, most: 3 },
  rtranif1: { least: 3, most: 3 },
  pullup: { least: 1, most: 1 },
  pulldown: { least: 1, most: 1 },
};

export const beginsGate = (cursor: Cursor): boolean =>
  own(GATES, cursor.token.text) !== undefined && !cursor.token.escaped && cursor.token.kind === 'word';

/** `and #2 g1 (y, a, b), g2 [3:0] (...);`. */
export function gates(cursor: Cursor): Item[] {
  const at = cursor.next();
  const strength = parseStrength(cursor);
  const delay = parseDelay(cursor);
  const { least, most } = own(GATES, at.text) ?? { least: 1, most: 1 };
  const items: Item[] = [];
  do {
    const name = cursor.is('(') ? null : cursor.name('the name of the gate').text;
    const range = parseRange(cursor);
    const open = cursor.expect('(', 'before the terminals');
    const terminals: Expression[] = [parseExpression(cursor)];
    while (cursor.accept(',')) terminals.push(parseExpression(cursor));
    cursor.expect(')', 'after the terminals');
    if (terminals.length < least || terminals.length > most)
      throw cursor.wrong(
        open,
        `A "${at.text}" has ${least === most ? '' : 'at least '}${least} terminals, ${terminals.length} are given.`,
      );
    items.push({ kind: 'gate', at, gate: at.text, name, range, delay, strength, terminals });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the gates');
  return items;
}
