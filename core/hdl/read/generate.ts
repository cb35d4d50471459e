import { item } from '../../lists.ts';
import type { Expression, Item } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';
import { one, parseExpression } from './expression.ts';

/** Reads one item of a module; handed in, since blocks hold items and items hold blocks. */
type ParseItem = (cursor: Cursor) => Item[];

/** A block of items, or a single one. */
export function generateBody(cursor: Cursor, parseItem: ParseItem): { items: Item[]; name: string | null } {
  if (!cursor.accept('begin')) return { items: parseItem(cursor), name: null };
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const items: Item[] = [];
  while (!cursor.accept('end')) {
    if (cursor.ended || cursor.is('endmodule')) throw cursor.unexpected('"end" to close the generate block');
    items.push(...parseItem(cursor));
  }
  if (cursor.accept(':')) cursor.name('a block name');
  return { items, name };
}

export function generateIf(cursor: Cursor, parseItem: ParseItem): Item {
  const at = cursor.next();
  cursor.expect('(', 'after "if"');
  const condition = parseExpression(cursor);
  cursor.expect(')', 'to close "if"');
  const then = generateBody(cursor, parseItem);
  const otherwise = cursor.accept('else') ? generateBody(cursor, parseItem) : { items: [], name: null };
  return {
    kind: 'generate-if',
    at,
    condition,
    then: then.items,
    otherwise: otherwise.items,
    names: [then.name, otherwise.name],
  };
}

export function generateCase(cursor: Cursor, parseItem: ParseItem): Item {
  const at = cursor.next();
  cursor.expect('(', 'after "case"');
  const subject = parseExpression(cursor);
  cursor.expect(')', 'to close "case"');
  const arms: { labels: Expression[]; items: Item[]; name: string | null }[] = [];
  while (!cursor.accept('endcase')) {
    if (cursor.ended) throw new GiveUp('syntax', at, 'This "case" is never closed by "endcase".');
    const labels: Expression[] = [];
    if (cursor.accept('default')) cursor.accept(':');
    else {
      do labels.push(parseExpression(cursor));
      while (cursor.accept(','));
      cursor.expect(':', 'after the case label');
    }
    arms.push({ labels, ...generateBody(cursor, parseItem) });
  }
  return { kind: 'generate-case', at, subject, arms };
}

export function generateFor(cursor: Cursor, parseItem: ParseItem): Item {
  const at = cursor.next();
  cursor.expect('(', 'after "for"');
  if (!cursor.accept('genvar')) cursor.accept('int');
  const variable = cursor.name('a genvar').text;
  cursor.expect('=', 'after the genvar');
  const first = parseExpression(cursor);
  cursor.expect(';', 'after the first part of "for"');
  const condition = parseExpression(cursor);
  cursor.expect(';', 'after the condition of "for"');
  const before = cursor.is('++') || cursor.is('--') ? cursor.next() : null;
  const named = cursor.name('the genvar');
  let step: Expression;
  if (before)
    step = {
      kind: 'binary',
      at,
      operator: item(before.text, 0),
      left: { kind: 'name', at: named, name: variable },
      right: one(at),
    };
  else if (cursor.is('++') || cursor.is('--')) {
    const operator = item(cursor.next().text, 0);
    step = {
      kind: 'binary',
      at,
      operator,
      left: { kind: 'name', at: named, name: variable },
      right: one(at),
    };
  } else if (/^[-+*]=$/.test(cursor.token.text)) {
    const operator = item(cursor.next().text, 0);
    step = {
      kind: 'binary',
      at,
      operator,
      left: { kind: 'name', at: named, name: variable },
      right: parseExpression(cursor),
    };
  } else {
    cursor.expect('=', 'after the genvar');
    step = parseExpression(cursor);
  }
  cursor.expect(')', 'to close "for"');
  const body = generateBody(cursor, parseItem);
  return { kind: 'generate-for', at, variable, first, condition, step, items: body.items, name: body.name };
}
