import { item } from '../../lists.ts';
import type { Expression, Item, Statement } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { beginsDeclaration, parseDeclaration } from './declaration.ts';
import { one, parseExpression, parsePrimary, parseSelects } from './expression.ts';
import { GiveUp } from './message.ts';
import { parseEvents, parseOneDelay, parseTiming } from './timing.ts';

type Kind<K extends Statement['kind']> = Statement & { readonly kind: K };
type Place = Statement['at'];
type Promised = 'unique' | 'unique0' | 'priority';

const PROMISES = new Set(['unique', 'unique0', 'priority']);
const LEAVING = new Set(['return', 'break', 'continue']);
const ASSERTIONS = new Set(['assert', 'assume', 'cover']);

export const parseStatement = (cursor: Cursor): Statement => cursor.nested(() => statement(cursor));

/** @source IEEE 1364-2005, clause 9; IEEE 1800, procedural statements */
function statement(cursor: Cursor): Statement {
  cursor.attributes();
  const { token: at } = cursor;
  if (cursor.accept(';')) return { kind: 'empty', at };
  if (at.kind === 'system') return call(cursor);
  const read = at.escaped ? undefined : READERS.get(at.text);
  const found = read?.(cursor, at);
  if (found) return found;
  if (cursor.isAny(PROMISES) && /^(if|case[xz]?)$/.test(cursor.ahead(1)?.text ?? '')) {
    const promise = cursor.next().text as Promised;
    return cursor.accept('if') ? ifStatement(cursor, at, promise) : caseStatement(cursor, promise);
  }
  if (cursor.isAny(LEAVING) && !cursor.isAssigned) return leave(cursor);
  if (cursor.isAny(ASSERTIONS) && /^(\(|#|final)$/.test(cursor.ahead(1)?.text ?? '')) return assertion(cursor);
  if (at.text === 'void' && cursor.ahead(1)?.text === "'") return discarded(cursor);
  // In SystemVerilog a label may stand before a statement.
  if (at.kind === 'word' && cursor.ahead(1)?.text === ':' && cursor.ahead(2)?.text !== ':') {
    cursor.name('a label');
    cursor.next();
    return parseStatement(cursor);
  }
  if (isCall(cursor)) return call(cursor);
  const assigned = assignment(cursor);
  cursor.expect(';', 'after the statement');
  return assigned;
}

type Reader = (cursor: Cursor, at: Place) => Statement | null;

/** A reader of what stands behind the word. */
const after =
  (read: Reader): Reader =>
  (cursor, at) => {
    cursor.next();
    return read(cursor, at);
  };

/** Readers by the word a statement begins with; one that finds it is none of its own gives null. */
const READERS: ReadonlyMap<string, Reader> = new Map<string, Reader>([
  ['begin', (cursor) => block(cursor)],
  ['fork', (cursor) => fork(cursor)],
  ['if', after((cursor, at) => ifStatement(cursor, at, null))],
  ['case', (cursor) => caseStatement(cursor, null)],
  ['casez', (cursor) => caseStatement(cursor, null)],
  ['casex', (cursor) => caseStatement(cursor, null)],
  ['for', after((cursor, at) => forStatement(cursor, at))],
  ['foreach', (cursor, at) => (cursor.ahead(1)?.text === '(' ? foreach(cursor, at) : null)],
  ['forever', after((cursor, at) => ({ kind: 'forever', at, body: parseStatement(cursor) }))],
  ['repeat', after((cursor, at) => repeat(cursor, at))],
  ['while', after((cursor, at) => whileStatement(cursor, at))],
  ['do', (cursor, at) => doWhile(cursor, at)],
  ['disable', after((cursor, at) => disable(cursor, at))],
  ['wait', after((cursor, at) => wait(cursor, at))],
  ['->', after((cursor, at) => trigger(cursor, at))],
  ['->>', after((cursor, at) => trigger(cursor, at))],
  ['#', (cursor, at) => ({ kind: 'delay', at, delay: parseOneDelay(cursor), body: parseStatement(cursor) })],
  ['@', (cursor, at) => ({ kind: 'events', at, events: parseEvents(cursor), body: parseStatement(cursor) })],
  ['assign', after((cursor, at) => hold(cursor, at, false))],
  ['force', after((cursor, at) => hold(cursor, at, true))],
  ['deassign', after((cursor, at) => letGo(cursor, at, false))],
  ['release', after((cursor, at) => letGo(cursor, at, true))],
]);

function block(cursor: Cursor): Statement {
  const at = cursor.next();
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const { declarations, body } = blockBody(cursor, at, 'end');
  return { kind: 'block', at, name, declarations, body };
}

function fork(cursor: Cursor): Statement {
  const at = cursor.next();
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const { declarations, body, end } = blockBody(cursor, at, 'join', 'join_any', 'join_none');
  return { kind: 'fork', at, name, join: end as Kind<'fork'>['join'], declarations, body };
}

function blockBody(cursor: Cursor, at: Place & { readonly text: string }, ...ends: string[]) {
  const declarations: Item[] = [];
  const body: Statement[] = [];
  const isEnd = () => ends.some((end) => cursor.is(end));
  while (!isEnd()) {
    if (cursor.ended || cursor.is('endmodule') || cursor.is('endfunction') || cursor.is('endtask'))
      throw new GiveUp('syntax', at, `This "${at.text}" is never closed by "${ends[0]}".`);
    if (beginsDeclaration(cursor)) declarations.push(...parseDeclaration(cursor, false));
    else body.push(parseStatement(cursor));
  }
  const end = cursor.next().text;
  if (cursor.accept(':')) cursor.name('a block name');
  return { declarations, body, end };
}

/** `void'(f(x));` calls a function for nothing: no hardware comes of it. */
function discarded(cursor: Cursor): Statement {
  const at = cursor.next();
  cursor.next();
  const value = bracketed(cursor, 'void');
  cursor.expect(';', 'after the statement');
  if (value.kind !== 'call') return { kind: 'empty', at };
  return { kind: 'call', at, name: value.name, arguments: value.arguments, ...packageOf(value) };
}

const packageOf = (value: { readonly package?: string }): { package?: string } =>
  value.package === undefined ? {} : { package: value.package };

function ifStatement(cursor: Cursor, at: Place, promise: Promised | null): Statement {
  const condition = bracketed(cursor, 'if');
  const then = parseStatement(cursor);
  return { kind: 'if', at, promise, condition, then, otherwise: cursor.accept('else') ? parseStatement(cursor) : null };
}

function caseStatement(cursor: Cursor, promise: Promised | null): Statement {
  const at = cursor.next();
  const subject = bracketed(cursor, at.text);
  const inside = cursor.accept('inside');
  const arms: { labels: Kind<'case'>['arms'][number]['labels']; body: Statement }[] = [];
  let otherwise: Statement | null = null;
  while (!cursor.is('endcase')) {
    if (cursor.ended || cursor.is('endmodule'))
      throw new GiveUp('syntax', at, `This "${at.text}" is never closed by "endcase".`);
    if (cursor.accept('default')) {
      cursor.accept(':');
      otherwise = parseStatement(cursor);
      continue;
    }
    const labels = [caseLabel(cursor, inside)];
    while (cursor.accept(',')) labels.push(caseLabel(cursor, inside));
    cursor.expect(':', 'after the case label');
    arms.push({ labels, body: parseStatement(cursor) });
  }
  const end = cursor.next();
  const wild = inside ? 'inside' : at.text === 'casez' ? 'z' : at.text === 'casex' ? 'xz' : 'none';
  return { kind: 'case', at, end, wild, promise, subject, arms, otherwise };
}

/** Of `case (x) inside` a label may be a range. */
function caseLabel(cursor: Cursor, inside: boolean): Expression {
  if (!inside || !cursor.is('[')) return parseExpression(cursor);
  const at = cursor.next();
  const high = parseExpression(cursor);
  cursor.expect(':', 'in the range');
  const low = parseExpression(cursor);
  cursor.expect(']', 'to close the range');
  return { kind: 'range', at, base: { kind: 'nothing', at }, high, low };
}

function forStatement(cursor: Cursor, at: Place): Statement {
  cursor.expect('(', 'after "for"');
  const local = beginsDeclaration(cursor) ? loopDeclaration(cursor) : null;
  const first = local ? null : assignment(cursor);
  if (!local) cursor.expect(';', 'after the first part of "for"');
  const condition = parseExpression(cursor);
  cursor.expect(';', 'after the condition of "for"');
  const step = assignment(cursor);
  cursor.expect(')', 'to close "for"');
  return { kind: 'for', at, first, local, condition, step, body: parseStatement(cursor) };
}

/** `int i = 0;` in the head of a loop: a variable of the loop's own. */
function loopDeclaration(cursor: Cursor): Item {
  const { token } = cursor;
  const [declared, another] = parseDeclaration(cursor, false);
  if (!declared || another || declared.kind !== 'declaration' || declared.names.length !== 1)
    throw new GiveUp('syntax', token, 'A loop declares one variable in its head.');
  return declared;
}

/** `foreach (array[i, j])`. @source IEEE 1800, the foreach-loop */
function foreach(cursor: Cursor, at: Place): Statement {
  cursor.next();
  cursor.expect('(', 'after "foreach"');
  const first = cursor.name('an array');
  let array: Expression = { kind: 'name', at: first, name: first.text };
  while (cursor.accept('.')) {
    const name = cursor.name('a name');
    array = { kind: 'member', at: name, base: array, name: name.text };
  }
  cursor.expect('[', 'before the variables of "foreach"');
  const variables: (string | null)[] = [];
  do variables.push(cursor.is(',') || cursor.is(']') ? null : cursor.name('a variable').text);
  while (cursor.accept(','));
  cursor.expect(']', 'after the variables of "foreach"');
  cursor.expect(')', 'to close "foreach"');
  return { kind: 'foreach', at, array, variables, body: parseStatement(cursor) };
}

const repeat = (cursor: Cursor, at: Place): Statement => ({
  kind: 'repeat',
  at,
  count: bracketed(cursor, 'repeat'),
  body: parseStatement(cursor),
});

const whileStatement = (cursor: Cursor, at: Place): Statement => ({
  kind: 'while',
  at,
  condition: bracketed(cursor, 'while'),
  body: parseStatement(cursor),
  bodyFirst: false,
});

function doWhile(cursor: Cursor, at: Place): Statement {
  cursor.next();
  const body = parseStatement(cursor);
  cursor.expect('while', 'after the body of "do"');
  const condition = bracketed(cursor, 'while');
  cursor.expect(';', 'after "do ... while"');
  return { kind: 'while', at, condition, body, bodyFirst: true };
}

function leave(cursor: Cursor): Statement {
  const at = cursor.next();
  const what = at.text as 'return' | 'break' | 'continue';
  const value = what === 'return' && !cursor.is(';') ? parseExpression(cursor) : null;
  cursor.expect(';', `after "${what}"`);
  return { kind: 'leave', at, what, block: null, value };
}

function disable(cursor: Cursor, at: Place): Statement {
  const block = cursor.accept('fork') ? null : parsePrimary(cursor);
  cursor.expect(';', 'after "disable"');
  return { kind: 'leave', at, what: 'disable', block, value: null };
}

/** `wait (condition)` and `wait fork`. */
function wait(cursor: Cursor, at: Place): Statement {
  if (cursor.accept('fork')) {
    cursor.expect(';', 'after "wait fork"');
    return { kind: 'call', at, name: 'wait fork', arguments: [] };
  }
  const condition = bracketed(cursor, 'wait');
  return { kind: 'wait', at, condition, body: parseStatement(cursor) };
}

function trigger(cursor: Cursor, at: Place): Statement {
  const event = parsePrimary(cursor);
  cursor.expect(';', 'after the event');
  return { kind: 'trigger', at, event };
}

function hold(cursor: Cursor, at: Place, force: boolean): Statement {
  const target = lvalue(cursor);
  cursor.expect('=', 'after what is held');
  const value = parseExpression(cursor);
  cursor.expect(';', 'after the statement');
  return { kind: 'hold', at, force, target, value };
}

function letGo(cursor: Cursor, at: Place, force: boolean): Statement {
  const target = lvalue(cursor);
  cursor.expect(';', 'after the statement');
  return { kind: 'let-go', at, force, target };
}

/** An immediate assertion. @source IEEE 1800, immediate assertions */
function assertion(cursor: Cursor): Statement {
  const at = cursor.next();
  if (cursor.accept('#')) cursor.next();
  else cursor.accept('final');
  const condition = bracketed(cursor, at.text);
  const then = cursor.is('else') || cursor.accept(';') ? null : parseStatement(cursor);
  const otherwise = cursor.accept('else') ? parseStatement(cursor) : null;
  return { kind: 'assert', at, condition, then: at.text === 'cover' ? null : then, otherwise };
}

function bracketed(cursor: Cursor, after: string): Expression {
  cursor.expect('(', `after "${after}"`);
  const inner = parseExpression(cursor);
  cursor.expect(')', `to close "${after}"`);
  return inner;
}

/** A name, of names or from a package, with arguments or nothing behind it. */
function isCall(cursor: Cursor): boolean {
  if (cursor.token.kind !== 'word') return false;
  let ahead = 1;
  while (/^(\.|::)$/.test(cursor.ahead(ahead)?.text ?? '') && cursor.ahead(ahead + 1)?.kind === 'word') ahead += 2;
  const follows = cursor.ahead(ahead)?.text;
  return follows === '(' || follows === ';';
}

/** A task or function of the design, or a system task. */
function call(cursor: Cursor): Statement {
  const first = cursor.next();
  const inner = cursor.accept('::') ? cursor.name('a task of the package') : null;
  let at = inner ?? first;
  let base: Expression | null = null;
  while (!inner && cursor.accept('.')) {
    base = base ? { kind: 'member', at, base, name: at.text } : { kind: 'name', at: first, name: first.text };
    at = cursor.name('the name of a task');
  }
  const values: Expression[] = [];
  if (cursor.accept('(')) {
    if (!cursor.is(')')) {
      do values.push(argument(cursor));
      while (cursor.accept(','));
    }
    cursor.expect(')', 'after the arguments');
  }
  cursor.expect(';', 'after the statement');
  return {
    kind: 'call',
    at,
    name: at.text,
    arguments: values,
    ...(inner ? { package: first.text } : {}),
    ...(base ? { base } : {}),
  };
}

const argument = (cursor: Cursor): Expression =>
  cursor.is(',') || cursor.is(')') ? { kind: 'nothing', at: cursor.token } : parseExpression(cursor);

function assignment(cursor: Cursor): Statement {
  const at = cursor.token;
  const by = (target: Expression, operator: string, right: Expression): Statement => ({
    kind: 'assign',
    at,
    blocking: true,
    target,
    timing: null,
    value: { kind: 'binary', at, operator, left: target, right },
  });
  if (cursor.is('++') || cursor.is('--')) {
    const operator = item(cursor.next().text, 0);
    return by(lvalue(cursor), operator, one(at));
  }
  const target = lvalue(cursor);
  if (cursor.is('=') || cursor.is('<=')) {
    const blocking = cursor.next().text === '=';
    const timing = parseTiming(cursor);
    return { kind: 'assign', at, blocking, target, timing, value: parseExpression(cursor) };
  }
  if (cursor.is('++') || cursor.is('--')) return by(target, item(cursor.next().text, 0), one(at));
  const compound = /^([-+*/%&|^]|<<<?|>>>?)=$/.exec(cursor.token.text);
  if (compound && cursor.token.kind === 'symbol') {
    cursor.next();
    return by(target, item(compound, 1), parseExpression(cursor));
  }
  throw cursor.unexpected('"=" or "<=" in the assignment');
}

/** A target of an assignment; an expression would take `<=` for a comparison. */
export function lvalue(cursor: Cursor): Expression {
  if (cursor.is('{')) {
    const at = cursor.next();
    const parts = [cursor.nested(() => lvalue(cursor))];
    while (cursor.accept(',')) parts.push(cursor.nested(() => lvalue(cursor)));
    cursor.expect('}', 'to close the concatenation');
    return { kind: 'concatenation', at, parts };
  }
  const name = cursor.name('a name to assign to');
  if (cursor.accept('::')) {
    const inner = cursor.name('a name of the package');
    return parseSelects(cursor, { kind: 'name', at: inner, name: inner.text, package: name.text });
  }
  return parseSelects(cursor, { kind: 'name', at: name, name: name.text });
}
