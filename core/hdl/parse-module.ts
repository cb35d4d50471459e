import { own } from '../lists.ts';
import type { Edge, Expression, Item, Module, Package } from './ast.ts';
import { Cursor } from './cursor.ts';
import type { Token } from './lexer.ts';
import { NO_IMPLICIT_NETS } from './preprocess.ts';
import { GiveUp, type Messages } from './message.ts';
import { beginsDeclaration, parseDeclaration } from './parse-declaration.ts';
import { parseExpression } from './parse-expression.ts';
import { generateBody, generateCase, generateFor, generateIf } from './parse-generate.ts';
import { instances } from './parse-instance.ts';
import { parameterHeader, portHeader } from './parse-ports.ts';
import { functionItem, taskItem } from './parse-routine.ts';
import { lvalue, parseStatement } from './parse-statement.ts';

const STOPS = new Set(['endmodule', 'module', 'package', 'endpackage']);
const REFUSED: Readonly<Record<string, string>> = {
  specify: 'Timing blocks describe a cell for simulation. Leave them out.',
  primitive: 'User-defined primitives are not taken. Write the table as a case statement.',
  defparam: 'Give the parameter at the instance: name #(.PARAMETER(value)).',
  wand: 'Wired logic does not exist inside an FPGA. Write the & out.',
  wor: 'Wired logic does not exist inside an FPGA. Write the | out.',
  triand: 'Wired logic does not exist inside an FPGA. Write the & out.',
  trior: 'Wired logic does not exist inside an FPGA. Write the | out.',
  trireg: 'A net that keeps its charge does not exist inside an FPGA. Use a register.',
  tri0: 'Pull-downs exist on pins only; set the pull in the ports table.',
  tri1: 'Pull-ups exist on pins only; set the pull in the ports table.',
  interface: 'Interfaces are not taken. Bring the signals through ports, or put them into a packed struct.',
  modport: 'Interfaces are not taken. Bring the signals through ports.',
  class: 'Classes belong in a simulation. Leave them out of the sources of the design.',
  program: 'Programs belong in a simulation. Leave them out of the sources of the design.',
  bind: 'Write the instance inside the module.',
  always_latch: 'Latches do not exist here. Use a clocked register, or give every path a value.',
  assert: 'Assertions belong in a simulation. Leave them out, or between `ifdef lines.',
  assume: 'Assertions belong in a simulation. Leave them out, or between `ifdef lines.',
  cover: 'Assertions belong in a simulation. Leave them out, or between `ifdef lines.',
  property: 'Assertions belong in a simulation. Leave them out, or between `ifdef lines.',
  sequence: 'Assertions belong in a simulation. Leave them out, or between `ifdef lines.',
  final: 'A "final" block belongs in a simulation. Leave it out.',
  covergroup: 'Coverage belongs in a simulation. Leave it out.',
  clocking: 'Clocking blocks belong in a simulation. Leave them out.',
  config: 'Configurations are not taken; the sources given are the design.',
  library: 'Libraries are not taken; the sources given are the design.',
  alias: 'Use assign.',
  event: 'Events belong in a simulation. Use a clocked signal.',
  nmos: 'Switch-level parts have no hardware here.',
  pmos: 'Switch-level parts have no hardware here.',
  cmos: 'Switch-level parts have no hardware here.',
  tran: 'Switch-level parts have no hardware here.',
  pullup: 'Set the pull of the pin in the ports table.',
  pulldown: 'Set the pull of the pin in the ports table.',
};

/**
 * Gates of the language and the operators they stand for; the last of a buffer's terminals is its input. @source IEEE
 * 1364-2005, clause 7
 */
const GATES: Readonly<Record<string, { readonly operator: string; readonly inverted: boolean }>> = {
  and: { operator: '&', inverted: false },
  nand: { operator: '&', inverted: true },
  or: { operator: '|', inverted: false },
  nor: { operator: '|', inverted: true },
  xor: { operator: '^', inverted: false },
  xnor: { operator: '^', inverted: true },
  buf: { operator: '', inverted: false },
  not: { operator: '', inverted: true },
};

/** `broken` names modules that are there but could not be understood, so that nobody is told they are missing. */
export interface Parsed {
  readonly modules: readonly Module[];
  readonly packages: readonly Package[];
  /** Declarations outside any module. */
  readonly outside: readonly Item[];
  readonly broken: ReadonlySet<string>;
}

/** Reads modules and packages one after another; after a mistake it goes on with the next item, so that one run reports them all. `types` are names that
 * typedefs have made; more are added. */
export function parseModules(tokens: readonly Token[], messages: Messages, types: Set<string> = new Set()): Parsed {
  const cursor = new Cursor(tokens, messages, types);
  const modules: Module[] = [];
  const packages: Package[] = [];
  const outside: Item[] = [];
  const broken = new Set<string>();
  let implicitNets = true;
  while (!cursor.ended) {
    cursor.attributes();
    if (cursor.ended) break;
    const { token } = cursor;
    if (token.kind === 'directive') {
      implicitNets = cursor.next().text !== NO_IMPLICIT_NETS;
      continue;
    }
    if (cursor.is('module') || cursor.is('macromodule')) {
      const name = cursor.ahead(1)?.text ?? '';
      const module = guarded(cursor, () => parseModule(cursor, implicitNets), STOPS);
      if (module) modules.push(module);
      else {
        broken.add(name);
        while (!cursor.ended && !cursor.is('module') && !cursor.accept('endmodule')) cursor.next();
      }
      continue;
    }
    if (cursor.is('package')) {
      const found = guarded(cursor, () => parsePackage(cursor), STOPS);
      if (found) packages.push(found);
      continue;
    }
    if (beginsDeclaration(cursor) || cursor.is('function') || cursor.is('task')) {
      outside.push(...(guarded(cursor, () => parseItem(cursor), STOPS) ?? []));
      continue;
    }
    const refusal = own(REFUSED, token.text);
    if (refusal) messages.error('not-taken', token, `"${token.text}" is not taken. ${refusal}`);
    else messages.error('syntax', token, `Expected "module", found "${token.text}".`);
    cursor.next();
    while (!cursor.ended && !cursor.is('module') && !cursor.is('package')) cursor.next();
  }
  return { modules, packages, outside, broken };
}

function guarded<T>(cursor: Cursor, read: () => T, stops: ReadonlySet<string>): T | null {
  const from = cursor.position;
  try {
    return read();
  } catch (error) {
    if (!(error instanceof GiveUp)) throw error;
    cursor.messages.error(error.code, error.place, error.message);
    cursor.recover(stops);
    // A word that stops the search and cannot be read either would be met for ever.
    if (cursor.position === from) cursor.next();
    return null;
  }
}

function parsePackage(cursor: Cursor): Package {
  const at = cursor.next();
  const name = cursor.name('a package name');
  cursor.expect(';', 'after the package name');
  const items: Item[] = [];
  while (!cursor.accept('endpackage')) {
    if (cursor.ended || cursor.is('module'))
      throw new GiveUp('syntax', at, `The package "${name.text}" is never closed by "endpackage".`);
    items.push(...(guarded(cursor, () => parseItem(cursor), STOPS) ?? []));
  }
  if (cursor.accept(':')) cursor.name('a package name');
  return { at: name, name: name.text, items };
}

function parseModule(cursor: Cursor, implicitNets: boolean): Module {
  const at = cursor.next();
  if (!cursor.accept('automatic')) cursor.accept('static');
  const name = cursor.name('a module name');
  const items: Item[] = [];
  const ports: { name: string; at: Token }[] = [];
  while (cursor.is('import')) items.push(...parseDeclaration(cursor, false));
  if (cursor.accept('#')) parameterHeader(cursor, items);
  if (cursor.accept('(')) portHeader(cursor, ports, items, null);
  cursor.expect(';', 'after the module header');
  while (!cursor.is('endmodule')) {
    if (cursor.ended || cursor.is('module'))
      throw new GiveUp('syntax', at, `The module "${name.text}" is never closed by "endmodule".`);
    const found = guarded(cursor, () => parseItem(cursor), STOPS);
    if (found) items.push(...found);
  }
  cursor.next();
  if (cursor.accept(':')) cursor.name('a module name');
  return { at: name, name: name.text, ports, items, implicitNets };
}

const parseItem = (cursor: Cursor): Item[] => cursor.nested(() => items(cursor));

function items(cursor: Cursor): Item[] {
  const { keep } = cursor.attributes();
  const { token } = cursor;
  if (token.kind === 'directive') {
    cursor.next();
    return [];
  }
  if (cursor.accept(';')) return [];
  if (cursor.accept('generate')) {
    const items: Item[] = [];
    while (!cursor.accept('endgenerate')) {
      if (cursor.ended) throw new GiveUp('syntax', token, 'This "generate" is never closed by "endgenerate".');
      items.push(...parseItem(cursor));
    }
    return items;
  }
  const refusal = own(REFUSED, token.text);
  if (refusal && !token.escaped) throw new GiveUp('not-taken', token, `"${token.text}" is not taken. ${refusal}`);
  if (beginsDeclaration(cursor)) return parseDeclaration(cursor, keep);
  if (cursor.accept('assign')) return assigns(cursor);
  if (cursor.is('always') || cursor.is('always_ff') || cursor.is('always_comb')) return [always(cursor)];
  if (cursor.accept('initial')) return [{ kind: 'initial', at: token, body: parseStatement(cursor) }];
  if (cursor.accept('function')) return [functionItem(cursor)];
  if (cursor.accept('task')) return [taskItem(cursor)];
  if (cursor.is('if')) return [generateIf(cursor, parseItem)];
  if (cursor.is('case')) return [generateCase(cursor, parseItem)];
  if (cursor.is('for')) return [generateFor(cursor, parseItem)];
  if (cursor.is('begin'))
    return [
      {
        kind: 'generate-if',
        at: token,
        condition: { kind: 'number', at: token, width: 1, signed: false, value: 1n, unknown: 0n, floating: 0n },
        ...named(generateBody(cursor, parseItem)),
      },
    ];
  if (token.text in GATES && !token.escaped) return gates(cursor);
  return instances(cursor);
}

const named = ({ items, name }: { items: Item[]; name: string | null }) => ({
  then: items,
  otherwise: [],
  names: [name, null] as const,
});

/** `and g1 (y, a, b), g2 (...);`: a continuous assignment each. */
function gates(cursor: Cursor): Item[] {
  const at = cursor.next();
  const { operator, inverted } = GATES[at.text] as { operator: string; inverted: boolean };
  if (cursor.is('#')) throw new GiveUp('delay', cursor.token, 'A delay has no hardware. Leave it out.');
  const items: Item[] = [];
  do {
    if (!cursor.is('(')) cursor.name('the name of the gate');
    const open = cursor.expect('(', 'before the terminals');
    const outputs = [lvalue(cursor)];
    const inputs: Expression[] = [];
    while (cursor.accept(',')) inputs.push(parseExpression(cursor));
    cursor.expect(')', 'after the terminals');
    if (operator === '') while (inputs.length > 1) outputs.push(inputs.shift() as Expression);
    const [first, ...rest] = inputs;
    if (!first) throw new GiveUp('syntax', open, `A "${at.text}" gate needs an output and an input.`);
    const joined = rest.reduce<Expression>((left, right) => ({ kind: 'binary', at, operator, left, right }), first);
    const value: Expression = inverted ? { kind: 'unary', at, operator: '~', operand: joined } : joined;
    for (const target of outputs) items.push({ kind: 'assign', at, target, value });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the gates');
  return items;
}

function assigns(cursor: Cursor): Item[] {
  const items: Item[] = [];
  if (cursor.is('#')) throw new GiveUp('delay', cursor.token, 'A delay has no hardware. Leave it out.');
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
  const form = at.text as 'always' | 'always_ff' | 'always_comb';
  if (form === 'always_comb') return { kind: 'always', at, edges: 'any', form, body: parseStatement(cursor) };
  if (!cursor.accept('@'))
    throw new GiveUp('sensitivity', at, 'An "always" without "@(...)" never waits; hardware needs an event list.');
  if (cursor.accept('*')) return { kind: 'always', at, edges: 'any', form, body: parseStatement(cursor) };
  cursor.expect('(', 'after "@"');
  if (cursor.accept('*')) {
    cursor.expect(')', 'to close the event list');
    return { kind: 'always', at, edges: 'any', form, body: parseStatement(cursor) };
  }
  const edges: Edge[] = [];
  do {
    const edge = cursor.is('posedge') || cursor.is('negedge') ? (cursor.next().text as 'posedge' | 'negedge') : 'any';
    edges.push({ edge, signal: parseExpression(cursor) });
  } while (cursor.accept('or') || cursor.accept(','));
  cursor.expect(')', 'to close the event list');
  return { kind: 'always', at, edges, form, body: parseStatement(cursor) };
}
