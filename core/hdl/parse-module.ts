import type { Connection, Direction, Edge, Expression, Item, Module, Range } from './ast.ts';
import { Cursor } from './cursor.ts';
import type { Token } from './lexer.ts';
import { GiveUp, type Messages } from './message.ts';
import { parseExpression, parseRange } from './parse-expression.ts';
import { beginsDeclaration, DIRECTIONS, parseDeclaration, parseDimensions, parseParameter } from './parse-declaration.ts';
import { lvalue, parseStatement } from './parse-statement.ts';

const STOPS = new Set(['endmodule', 'module']);
const REFUSED: Readonly<Record<string, string>> = {
  specify: 'Timing blocks describe a cell for simulation. Leave them out.',
  primitive: 'User-defined primitives are not taken. Write the table as a case statement.',
  defparam: 'Give the parameter at the instance: name #(.PARAMETER(value)).',
  wand: 'Wired logic does not exist inside an FPGA. Write the & out.',
  wor: 'Wired logic does not exist inside an FPGA. Write the | out.',
};

/** `broken` names modules that are there but could not be understood, so that nobody is told they are missing. */
export interface Parsed {
  readonly modules: readonly Module[];
  readonly broken: ReadonlySet<string>;
}

/** Reads modules one after another; after a mistake it goes on with the next item, so that one run reports them all. */
export function parseModules(tokens: readonly Token[], messages: Messages): Parsed {
  const cursor = new Cursor(tokens, messages);
  const modules: Module[] = [];
  const broken = new Set<string>();
  while (!cursor.ended) {
    skipAttributes(cursor);
    if (cursor.ended) break;
    if (cursor.is('module') || cursor.is('macromodule')) {
      const name = cursor.ahead(1)?.text ?? '';
      const module = guarded(cursor, () => parseModule(cursor), STOPS);
      if (module) modules.push(module);
      else {
        broken.add(name);
        while (!cursor.ended && !cursor.is('module') && !cursor.accept('endmodule')) cursor.next();
      }
      continue;
    }
    const { token } = cursor;
    messages.error('syntax', token, `Expected "module", found "${token.text}".`);
    while (!cursor.ended && !cursor.is('module')) cursor.next();
  }
  return { modules, broken };
}

function guarded<T>(cursor: Cursor, read: () => T, stops: ReadonlySet<string>): T | null {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof GiveUp)) throw error;
    cursor.messages.error(error.code, error.place, error.message);
    cursor.recover(stops);
    return null;
  }
}

function parseModule(cursor: Cursor): Module {
  const at = cursor.next();
  const name = cursor.name('a module name');
  const items: Item[] = [];
  const ports: { name: string; at: Token }[] = [];
  if (cursor.accept('#')) parameterHeader(cursor, items);
  if (cursor.accept('(')) portHeader(cursor, ports, items);
  cursor.expect(';', 'after the module header');
  while (!cursor.is('endmodule')) {
    if (cursor.ended || cursor.is('module')) throw new GiveUp('syntax', at, `The module "${name.text}" is never closed by "endmodule".`);
    const found = guarded(cursor, () => parseItem(cursor), STOPS);
    if (found) items.push(...found);
  }
  cursor.next();
  if (cursor.accept(':')) cursor.name('a module name');
  return { at: name, name: name.text, ports, items };
}

function parameterHeader(cursor: Cursor, items: Item[]): void {
  cursor.expect('(', 'after "#"');
  while (!cursor.accept(')')) {
    const local = cursor.is('localparam');
    if (local || cursor.is('parameter')) cursor.next();
    items.push(parseParameter(cursor, local));
    if (!cursor.is(')')) cursor.expect(',', 'between parameters');
  }
}

function portHeader(cursor: Cursor, ports: { name: string; at: Token }[], items: Item[]): void {
  let last: PortType | null = null;
  while (!cursor.accept(')')) {
    skipAttributes(cursor);
    if (cursor.isAny(DIRECTIONS)) last = portType(cursor);
    else if (last !== null && cursor.is('[')) last = withRange(last, parseRange(cursor));
    const name = cursor.name('a port name');
    ports.push({ name: name.text, at: name });
    if (last) {
      const value = cursor.accept('=') ? parseExpression(cursor) : null;
      items.push({ kind: 'declaration', at: name, ...last, names: [{ at: name, name: name.text, dimensions: parseDimensions(cursor), value }] });
    }
    if (!cursor.is(')')) cursor.expect(',', 'between ports');
  }
}

interface PortType {
  readonly net: 'wire' | 'reg';
  readonly direction: Direction;
  readonly signed: boolean;
  readonly range: Range | null;
}

function portType(cursor: Cursor): PortType {
  const direction = cursor.next().text as Direction;
  let net: 'wire' | 'reg' = 'wire';
  if (cursor.is('wire') || cursor.is('reg') || cursor.is('logic')) net = cursor.next().text === 'wire' ? 'wire' : 'reg';
  const signed = cursor.accept('signed');
  return { net, direction, signed, range: parseRange(cursor) };
}

const withRange = (type: PortType, range: Range | null): PortType => ({ ...type, range });

function skipAttributes(cursor: Cursor): void {
  while (cursor.accept('(*')) {
    while (!cursor.ended && !cursor.accept('*)')) cursor.next();
  }
}

function parseItem(cursor: Cursor): Item[] {
  skipAttributes(cursor);
  const { token } = cursor;
  if (cursor.accept(';')) return [];
  if (cursor.accept('generate')) {
    const items: Item[] = [];
    while (!cursor.accept('endgenerate')) {
      if (cursor.ended) throw new GiveUp('syntax', token, 'This "generate" is never closed by "endgenerate".');
      items.push(...parseItem(cursor));
    }
    return items;
  }
  const refusal = REFUSED[token.text];
  if (refusal && !token.escaped) throw new GiveUp('not-taken', token, `"${token.text}" is not taken. ${refusal}`);
  if (beginsDeclaration(cursor)) return parseDeclaration(cursor);
  if (cursor.accept('assign')) return assigns(cursor);
  if (cursor.is('always') || cursor.is('always_ff') || cursor.is('always_comb')) return [always(cursor)];
  if (cursor.accept('initial')) return [{ kind: 'initial', at: token, body: parseStatement(cursor) }];
  if (cursor.accept('function')) return [functionItem(cursor)];
  if (cursor.accept('task')) return [taskItem(cursor)];
  if (cursor.is('if')) return [generateIf(cursor)];
  if (cursor.is('case')) return [generateCase(cursor)];
  if (cursor.is('for')) return [generateFor(cursor)];
  return instances(cursor);
}

function assigns(cursor: Cursor): Item[] {
  const items: Item[] = [];
  do {
    const target = lvalue(cursor);
    const at = cursor.expect('=', 'in the assignment');
    items.push({ kind: 'assign', at, target, value: parseExpression(cursor) });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the assignment');
  return items;
}

function always(cursor: Cursor): Item {
  const at = cursor.next();
  if (at.text === 'always_comb') return { kind: 'always', at, edges: 'any', body: parseStatement(cursor) };
  if (!cursor.accept('@')) throw new GiveUp('sensitivity', at, 'An "always" without "@(...)" never waits; hardware needs an event list.');
  if (cursor.accept('*')) return { kind: 'always', at, edges: 'any', body: parseStatement(cursor) };
  cursor.expect('(', 'after "@"');
  if (cursor.accept('*')) {
    cursor.expect(')', 'to close the event list');
    return { kind: 'always', at, edges: 'any', body: parseStatement(cursor) };
  }
  const edges: Edge[] = [];
  do {
    const edge = cursor.is('posedge') || cursor.is('negedge') ? (cursor.next().text as 'posedge' | 'negedge') : 'any';
    edges.push({ edge, signal: parseExpression(cursor) });
  } while (cursor.accept('or') || cursor.accept(','));
  cursor.expect(')', 'to close the event list');
  return { kind: 'always', at, edges, body: parseStatement(cursor) };
}

function functionItem(cursor: Cursor): Item {
  cursor.accept('automatic');
  const integer = cursor.accept('integer');
  const signed = cursor.accept('signed') || integer;
  const range = parseRange(cursor);
  const name = cursor.name('a function name');
  const items: Item[] = [];
  if (cursor.accept('(')) portHeader(cursor, [], items);
  cursor.expect(';', 'after the function header');
  while (beginsDeclaration(cursor)) items.push(...parseDeclaration(cursor));
  const body = parseStatement(cursor);
  cursor.expect('endfunction', 'after the function');
  const word = (value: bigint): Expression => ({ kind: 'number', at: name, width: null, signed: true, value, unknown: 0n, floating: 0n });
  return { kind: 'function', at: name, name: name.text, signed, range: integer ? { high: word(31n), low: word(0n) } : range, items, body };
}

function taskItem(cursor: Cursor): Item {
  cursor.accept('automatic');
  const name = cursor.name('a task name');
  const items: Item[] = [];
  if (cursor.accept('(')) portHeader(cursor, [], items);
  cursor.expect(';', 'after the task header');
  while (beginsDeclaration(cursor)) items.push(...parseDeclaration(cursor));
  const body = parseStatement(cursor);
  cursor.expect('endtask', 'after the task');
  return { kind: 'task', at: name, name: name.text, items, body };
}

function generateBody(cursor: Cursor): { items: Item[]; name: string | null } {
  if (!cursor.accept('begin')) return { items: parseItem(cursor), name: null };
  const name = cursor.accept(':') ? cursor.name('a block name').text : null;
  const items: Item[] = [];
  while (!cursor.accept('end')) {
    if (cursor.ended || cursor.is('endmodule')) throw cursor.unexpected('"end" to close the generate block');
    items.push(...parseItem(cursor));
  }
  return { items, name };
}

function generateIf(cursor: Cursor): Item {
  const at = cursor.next();
  cursor.expect('(', 'after "if"');
  const condition = parseExpression(cursor);
  cursor.expect(')', 'to close "if"');
  const then = generateBody(cursor);
  const otherwise = cursor.accept('else') ? generateBody(cursor) : { items: [], name: null };
  return { kind: 'generate-if', at, condition, then: then.items, otherwise: otherwise.items, names: [then.name, otherwise.name] };
}

function generateCase(cursor: Cursor): Item {
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
    arms.push({ labels, ...generateBody(cursor) });
  }
  return { kind: 'generate-case', at, subject, arms };
}

function generateFor(cursor: Cursor): Item {
  const at = cursor.next();
  cursor.expect('(', 'after "for"');
  cursor.accept('genvar');
  const variable = cursor.name('a genvar').text;
  cursor.expect('=', 'after the genvar');
  const first = parseExpression(cursor);
  cursor.expect(';', 'after the first part of "for"');
  const condition = parseExpression(cursor);
  cursor.expect(';', 'after the condition of "for"');
  const named = cursor.name('the genvar');
  let step: Expression;
  if (cursor.is('++') || cursor.is('--')) {
    const operator = cursor.next().text[0] as string;
    step = { kind: 'binary', at, operator, left: { kind: 'name', at: named, path: [variable] }, right: { kind: 'number', at, width: null, signed: true, value: 1n, unknown: 0n, floating: 0n } };
  } else {
    cursor.expect('=', 'after the genvar');
    step = parseExpression(cursor);
  }
  cursor.expect(')', 'to close "for"');
  const body = generateBody(cursor);
  return { kind: 'generate-for', at, variable, first, condition, step, items: body.items, name: body.name };
}

function connections(cursor: Cursor): { list: Connection[]; wildcard: boolean } {
  cursor.expect('(', 'before the connections');
  const list: Connection[] = [];
  let wildcard = false;
  while (!cursor.accept(')')) {
    const at = cursor.token;
    if (cursor.accept('.*')) wildcard = true;
    else if (cursor.accept('.')) {
      const name = cursor.name('a port name');
      if (cursor.accept('(')) {
        const value = cursor.is(')') ? null : parseExpression(cursor);
        cursor.expect(')', 'to close the connection');
        list.push({ at, name: name.text, value });
      } else list.push({ at, name: name.text, value: { kind: 'name', at: name, path: [name.text] } });
    } else list.push({ at, name: null, value: cursor.is(',') || cursor.is(')') ? null : parseExpression(cursor) });
    if (!cursor.is(')')) cursor.expect(',', 'between connections');
  }
  return { list, wildcard };
}

function instances(cursor: Cursor): Item[] {
  const module = cursor.name('a declaration, an assignment, an always block or an instance');
  const overrides = cursor.accept('#') ? connections(cursor).list : [];
  const items: Item[] = [];
  do {
    const name = cursor.name('an instance name');
    const range = parseRange(cursor);
    const ports = connections(cursor);
    items.push({ kind: 'instance', at: name, module: module.text, name: name.text, range, parameters: overrides, ports: ports.list, wildcard: ports.wildcard });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the instance');
  return items;
}
