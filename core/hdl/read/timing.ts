import type { Delay, Edge, EventList, Expression, Strength, Timing } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { parseExpression, parsePrimary } from './expression.ts';

/** `#5`, `#(2, 3)`, `#(1:2:3)`; of least, typical and greatest the typical one. @source IEEE 1364-2005, clause 7.14 */
export function parseDelay(cursor: Cursor): Delay | null {
  if (!cursor.accept('#')) return null;
  if (!cursor.accept('(')) return [parsePrimary(cursor)];
  const delays = [typical(cursor)];
  while (cursor.accept(',')) delays.push(typical(cursor));
  cursor.expect(')', 'after the delays');
  return delays;
}

/** One delay, before a statement or inside an assignment. */
export function parseOneDelay(cursor: Cursor): Expression {
  cursor.expect('#', 'before a delay');
  if (!cursor.accept('(')) return parsePrimary(cursor);
  const delay = typical(cursor);
  cursor.expect(')', 'after the delay');
  return delay;
}

/** `least:typical:greatest`, or one value. */
function typical(cursor: Cursor): Expression {
  const first = parseExpression(cursor);
  if (!cursor.accept(':')) return first;
  const middle = parseExpression(cursor);
  cursor.expect(':', 'before the greatest delay');
  parseExpression(cursor);
  return middle;
}

/** `@name`, `@*`, `@(*)`, `@(posedge a or b, c)`. @source IEEE 1364-2005, clause 9.7 */
export function parseEvents(cursor: Cursor): EventList {
  cursor.expect('@', 'before an event');
  if (cursor.accept('*')) return 'any';
  if (cursor.is('(*')) {
    cursor.next();
    cursor.expect(')', 'to close the event list');
    return 'any';
  }
  if (!cursor.accept('(')) return [{ edge: 'any', signal: parsePrimary(cursor) }];
  if (cursor.accept('*')) {
    cursor.expect(')', 'to close the event list');
    return 'any';
  }
  const edges = [parseEdge(cursor)];
  while (cursor.accept('or') || cursor.accept(',')) edges.push(parseEdge(cursor));
  cursor.expect(')', 'to close the event list');
  return edges;
}

function parseEdge(cursor: Cursor): Edge {
  const named = cursor.is('posedge') || cursor.is('negedge') || cursor.is('edge') ? cursor.next().text : 'any';
  const edge = named === 'edge' ? 'both' : (named as Edge['edge']);
  const signal = parseExpression(cursor);
  return cursor.accept('iff') ? { edge, signal, only: parseExpression(cursor) } : { edge, signal };
}

/** What may stand between `=` and the value. @source IEEE 1364-2005, clause 9.7.7 */
export function parseTiming(cursor: Cursor): Timing | null {
  if (cursor.is('#')) return { kind: 'delay', delay: parseOneDelay(cursor) };
  if (cursor.is('@')) return { kind: 'events', events: parseEvents(cursor), times: null };
  if (!cursor.is('repeat')) return null;
  cursor.next();
  cursor.expect('(', 'after "repeat"');
  const times = parseExpression(cursor);
  cursor.expect(')', 'to close "repeat"');
  return { kind: 'events', events: parseEvents(cursor), times };
}

const LEVELS: Readonly<Record<string, number>> = { highz: 0, weak: 3, pull: 5, strong: 6, supply: 7 };
const STRENGTH = /^(highz|weak|pull|strong|supply)([01])$/;

/** `(strong1, pull0)`, in either order. @source IEEE 1364-2005, clause 6.1.4 */
export function parseStrength(cursor: Cursor): Strength | null {
  if (!cursor.is('(') || !STRENGTH.test(cursor.ahead(1)?.text ?? '')) return null;
  cursor.next();
  const found = { zero: 6, one: 6 };
  do {
    const [, level, digit] = STRENGTH.exec(cursor.next().text) ?? [];
    if (level === undefined) throw cursor.unexpected('a drive strength such as strong0');
    found[digit === '0' ? 'zero' : 'one'] = LEVELS[level] as number;
  } while (cursor.accept(','));
  cursor.expect(')', 'after the drive strengths');
  return found;
}
