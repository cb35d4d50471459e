import type { Expression, Item, Statement } from './ast.ts';
import type { Cursor } from './cursor.ts';
import { GiveUp } from './message.ts';
import { parseExpression, parseSelects } from './parse-expression.ts';
import { parseDeclaration } from './parse-declaration.ts';

const DECLARATIONS = new Set(['reg', 'integer', 'wire', 'logic', 'localparam', 'parameter', 'int']);
const LIMITED = new Set(['wait', 'forever', 'fork', 'disable', 'force', 'release', 'deassign', '->', '@', '#']);

export function parseStatement(cursor: Cursor): Statement {
  const { token } = cursor;
  if (cursor.accept(';')) return { kind: 'empty', at: token };
  if (cursor.is('begin')) return block(cursor);
  if (cursor.is('unique') || cursor.is('priority')) cursor.next();
  if (cursor.accept('if')) return ifStatement(cursor, token);
  if (cursor.is('case') || cursor.is('casez') || cursor.is('casex')) return caseStatement(cursor);
  if (cursor.accept('for')) return forStatement(cursor, token);
  if (cursor.accept('repeat')) {
    const count = bracketed(cursor, 'repeat');
    return { kind: 'repeat', at: token, count, body: parseStatement(cursor) };
  }
  if (cursor.accept('while')) {
    const condition = bracketed(cursor, 'while');
    return { kind: 'while', at: token, condition, body: parseStatement(cursor) };
  }
  if (cursor.isAny(LIMITED))
    throw new GiveUp('not-synthesizable', token, `"${token.text}" belongs in a simulation and cannot become hardware. Leave it out of the sources of the design.`);
  if (token.kind === 'system') return call(cursor);
  if (token.kind === 'word' && (cursor.ahead(1)?.text === '(' || cursor.ahead(1)?.text === ';')) return call(cursor);
  const statement = assignment(cursor);
  cursor.expect(';', 'after the statement');
  return statement;
}

function block(cursor: Cursor): Statement {
  const at = cursor.next();
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const declarations: Item[] = [];
  const body: Statement[] = [];
  while (cursor.isAny(DECLARATIONS)) declarations.push(...parseDeclaration(cursor));
  while (!cursor.is('end')) {
    if (cursor.ended) throw new GiveUp('syntax', at, 'This "begin" is never closed by "end".');
    body.push(parseStatement(cursor));
  }
  cursor.next();
  if (cursor.accept(':')) cursor.name('a block name');
  return { kind: 'block', at, name, declarations, body };
}

function ifStatement(cursor: Cursor, at: Statement['at']): Statement {
  const condition = bracketed(cursor, 'if');
  const then = parseStatement(cursor);
  return { kind: 'if', at, condition, then, otherwise: cursor.accept('else') ? parseStatement(cursor) : null };
}

function caseStatement(cursor: Cursor): Statement {
  const at = cursor.next();
  const subject = bracketed(cursor, at.text);
  const arms: { labels: Expression[]; body: Statement }[] = [];
  let otherwise: Statement | null = null;
  while (!cursor.is('endcase')) {
    if (cursor.ended || cursor.is('endmodule')) throw new GiveUp('syntax', at, `This "${at.text}" is never closed by "endcase".`);
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
  cursor.next();
  return { kind: 'case', at, wild: at.text === 'casez' ? 'z' : at.text === 'casex' ? 'xz' : 'none', subject, arms, otherwise };
}

function forStatement(cursor: Cursor, at: Statement['at']): Statement {
  cursor.expect('(', 'after "for"');
  const first = assignment(cursor);
  cursor.expect(';', 'after the first part of "for"');
  const condition = parseExpression(cursor);
  cursor.expect(';', 'after the condition of "for"');
  const step = assignment(cursor);
  cursor.expect(')', 'to close "for"');
  return { kind: 'for', at, first, condition, step, body: parseStatement(cursor) };
}

function bracketed(cursor: Cursor, after: string): Expression {
  cursor.expect('(', `after "${after}"`);
  const inner = parseExpression(cursor);
  cursor.expect(')', `to close "${after}"`);
  return inner;
}

/** A task of the design, or a system task: those other than memory initialisation print or stop a simulation and have no hardware. */
function call(cursor: Cursor): Statement {
  const at = cursor.next();
  const values: Expression[] = [];
  if (cursor.accept('(')) {
    if (!cursor.is(')')) {
      do values.push(parseExpression(cursor));
      while (cursor.accept(','));
    }
    cursor.expect(')', 'after the arguments');
  }
  cursor.expect(';', 'after the statement');
  return { kind: 'call', at, name: at.text, arguments: values };
}

function assignment(cursor: Cursor): Statement {
  const at = cursor.token;
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
    const operator = cursor.next().text[0] as string;
    const one: Expression = { kind: 'number', at, width: null, signed: true, value: 1n, unknown: 0n, floating: 0n };
    return { kind: 'assign', at, blocking: true, target, value: { kind: 'binary', at, operator, left: target, right: one } };
  }
  const compound = /^([-+*/%&|^]|<<|>>|<<<|>>>)=$/.exec(cursor.token.text);
  if (compound && cursor.token.kind === 'symbol') {
    cursor.next();
    return { kind: 'assign', at, blocking: true, target, value: { kind: 'binary', at, operator: compound[1] as string, left: target, right: parseExpression(cursor) } };
  }
  throw cursor.unexpected('"=" or "<=" in the assignment');
}

/** A target of an assignment; an expression would take `<=` for a comparison. */
export function lvalue(cursor: Cursor): Expression {
  if (cursor.is('{')) {
    const at = cursor.next();
    const parts = [lvalue(cursor)];
    while (cursor.accept(',')) parts.push(lvalue(cursor));
    cursor.expect('}', 'to close the concatenation');
    return { kind: 'concatenation', at, parts };
  }
  const name = cursor.name('a name to assign to');
  return parseSelects(cursor, { kind: 'name', at: name, path: [name.text] });
}

function refuseDelay(cursor: Cursor): void {
  if (cursor.is('#') || cursor.is('@')) throw new GiveUp('delay', cursor.token, 'A delay inside an assignment has no hardware. Use a clocked counter to wait.');
}
