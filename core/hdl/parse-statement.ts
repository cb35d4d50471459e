import { item } from '../lists.ts';
import type { Expression, Item, Statement } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';
import { parseExpression, parseSelects } from './parse-expression.ts';
import { beginsDeclaration, parseDeclaration } from './parse-declaration.ts';

const PROMISES = new Set(['unique', 'unique0', 'priority']);
const LEAVING = new Set(['return', 'break', 'continue']);
const LIMITED = new Set([
  'wait',
  'forever',
  'fork',
  'force',
  'release',
  'deassign',
  '->',
  '@',
  '#',
  'assert',
  'assume',
  'cover',
  'foreach',
  'expect',
]);

export const parseStatement = (cursor: Cursor): Statement => cursor.nested(() => statement(cursor));

function statement(cursor: Cursor): Statement {
  const { token } = cursor;
  if (cursor.accept(';')) return { kind: 'empty', at: token };
  if (cursor.is('begin')) return block(cursor);
  const promise =
    cursor.isAny(PROMISES) && /^(if|case[xz]?)$/.test(cursor.ahead(1)?.text ?? '')
      ? (cursor.next().text as Promised)
      : null;
  if (cursor.accept('if')) return ifStatement(cursor, token, promise);
  if (cursor.is('case') || cursor.is('casez') || cursor.is('casex')) return caseStatement(cursor, promise);
  if (cursor.accept('for')) return forStatement(cursor, token);
  if (cursor.accept('repeat')) {
    const count = bracketed(cursor, 'repeat');
    return { kind: 'repeat', at: token, count, body: parseStatement(cursor) };
  }
  if (cursor.accept('while')) {
    const condition = bracketed(cursor, 'while');
    return { kind: 'while', at: token, condition, body: parseStatement(cursor), bodyFirst: false };
  }
  if (cursor.is('do') && cursor.ahead(1)?.text === 'begin') {
    cursor.next();
    const body = parseStatement(cursor);
    cursor.expect('while', 'after the body of "do"');
    const condition = bracketed(cursor, 'while');
    cursor.expect(';', 'after "do ... while"');
    return { kind: 'while', at: token, condition, body, bodyFirst: true };
  }
  if (cursor.isAny(LEAVING) && !cursor.isAssigned) {
    const what = cursor.next().text as 'return' | 'break' | 'continue';
    const value = what === 'return' && !cursor.is(';') ? parseExpression(cursor) : null;
    cursor.expect(';', `after "${what}"`);
    return { kind: 'leave', at: token, what, block: null, value };
  }
  if (cursor.accept('disable')) {
    const block = cursor.name('the name of a block around').text;
    cursor.expect(';', 'after "disable"');
    return { kind: 'leave', at: token, what: 'disable', block, value: null };
  }
  if (cursor.isAny(LIMITED))
    throw new GiveUp(
      'not-synthesizable',
      token,
      `"${token.text}" belongs in a simulation and cannot become hardware. Leave it out of the sources of the design.`,
    );
  if (token.kind === 'system') return call(cursor);
  if (token.text === 'void' && cursor.ahead(1)?.text === "'") return discarded(cursor);
  if (
    token.kind === 'word' &&
    (cursor.ahead(1)?.text === '(' || cursor.ahead(1)?.text === ';' || cursor.ahead(1)?.text === '::')
  )
    return call(cursor);
  const assigned = assignment(cursor);
  cursor.expect(';', 'after the statement');
  return assigned;
}

function block(cursor: Cursor): Statement {
  const at = cursor.next();
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const declarations: Item[] = [];
  const body: Statement[] = [];
  while (beginsDeclaration(cursor)) declarations.push(...parseDeclaration(cursor, false));
  while (!cursor.is('end')) {
    if (cursor.ended) throw new GiveUp('syntax', at, 'This "begin" is never closed by "end".');
    body.push(parseStatement(cursor));
  }
  cursor.next();
  if (cursor.accept(':')) cursor.name('a block name');
  return { kind: 'block', at, name, declarations, body };
}

type Promised = 'unique' | 'unique0' | 'priority';

/** `void'(f(x));` calls a function for nothing: no hardware comes of it. */
function discarded(cursor: Cursor): Statement {
  const at = cursor.next();
  cursor.next();
  bracketed(cursor, 'void');
  cursor.expect(';', 'after the statement');
  return { kind: 'empty', at };
}

function ifStatement(cursor: Cursor, at: Statement['at'], promise: Promised | null): Statement {
  const condition = bracketed(cursor, 'if');
  const then = parseStatement(cursor);
  return { kind: 'if', at, promise, condition, then, otherwise: cursor.accept('else') ? parseStatement(cursor) : null };
}

function caseStatement(cursor: Cursor, promise: Promised | null): Statement {
  const at = cursor.next();
  const subject = bracketed(cursor, at.text);
  if (cursor.is('inside'))
    throw new GiveUp(
      'not-taken',
      cursor.token,
      '"case inside" is not taken. Use casez with ? digits, or if with inside.',
    );
  const arms: { labels: Expression[]; body: Statement }[] = [];
  let otherwise: Statement | null = null;
  while (!cursor.is('endcase')) {
    if (cursor.ended || cursor.is('endmodule'))
      throw new GiveUp('syntax', at, `This "${at.text}" is never closed by "endcase".`);
    if (cursor.accept('default')) {
      cursor.accept(':');
      otherwise = parseStatement(cursor);
      continue;
    }
    const labels = [parseExpression(cursor)];
    while (cursor.accept(',')) labels.push(parseExpression(cursor));
    cursor.expect(':', 'after the case label');
    arms.push({ labels, body: parseStatement(cursor) });
  }
  const end = cursor.next();
  return {
    kind: 'case',
    at,
    end,
    wild: at.text === 'casez' ? 'z' : at.text === 'casex' ? 'xz' : 'none',
    promise,
    subject,
    arms,
    otherwise,
  };
}

function forStatement(cursor: Cursor, at: Statement['at']): Statement {
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
  const [item, another] = parseDeclaration(cursor, false);
  if (!item || another || item.kind !== 'declaration' || item.names.length !== 1)
    throw new GiveUp('syntax', token, 'A loop declares one variable in its head.');
  return item;
}

function bracketed(cursor: Cursor, after: string): Expression {
  cursor.expect('(', `after "${after}"`);
  const inner = parseExpression(cursor);
  cursor.expect(')', `to close "${after}"`);
  return inner;
}

/**
 * A task of the design, or a system task: those other than memory initialisation print or stop a simulation and have no
 * hardware.
 */
function call(cursor: Cursor): Statement {
  const first = cursor.next();
  const inner = cursor.accept('::') ? cursor.name('a task of the package') : null;
  const at = inner ?? first;
  const values: Expression[] = [];
  if (cursor.accept('(')) {
    if (!cursor.is(')')) {
      do values.push(parseExpression(cursor));
      while (cursor.accept(','));
    }
    cursor.expect(')', 'after the arguments');
  }
  cursor.expect(';', 'after the statement');
  return { kind: 'call', at, name: at.text, arguments: values, ...(inner ? { package: first.text } : {}) };
}

function assignment(cursor: Cursor): Statement {
  const at = cursor.token;
  if (cursor.is('++') || cursor.is('--')) {
    const operator = item(cursor.next().text, 0);
    const target = lvalue(cursor);
    return {
      kind: 'assign',
      at,
      blocking: true,
      target,
      value: { kind: 'binary', at, operator, left: target, right: ONE(at) },
    };
  }
  const target = lvalue(cursor);
  if (cursor.accept('=')) {
    refuseDelay(cursor);
    return { kind: 'assign', at, blocking: true, target, value: parseExpression(cursor) };
  }
  if (cursor.accept('<=')) {
    refuseDelay(cursor);
    return { kind: 'assign', at, blocking: false, target, value: parseExpression(cursor) };
  }
  if (cursor.is('++') || cursor.is('--')) {
    const operator = item(cursor.next().text, 0);
    return {
      kind: 'assign',
      at,
      blocking: true,
      target,
      value: { kind: 'binary', at, operator, left: target, right: ONE(at) },
    };
  }
  const compound = /^([-+*/%&|^]|<<<?|>>>?)=$/.exec(cursor.token.text);
  if (compound && cursor.token.kind === 'symbol') {
    cursor.next();
    return {
      kind: 'assign',
      at,
      blocking: true,
      target,
      value: { kind: 'binary', at, operator: item(compound, 1), left: target, right: parseExpression(cursor) },
    };
  }
  throw cursor.unexpected('"=" or "<=" in the assignment');
}

const ONE = (at: Statement['at']): Expression => ({
  kind: 'number',
  at,
  width: null,
  signed: true,
  value: 1n,
  unknown: 0n,
  floating: 0n,
});

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
  return parseSelects(cursor, { kind: 'name', at: name, name: name.text });
}

function refuseDelay(cursor: Cursor): void {
  if (cursor.is('#') || cursor.is('@'))
    throw new GiveUp(
      'delay',
      cursor.token,
      'A delay inside an assignment has no hardware. Use a clocked counter to wait.',
    );
}
