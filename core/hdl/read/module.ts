import { own } from '../../lists.ts';
import type { EventList, Item, Module, Package, Primitive } from './ast.ts';
import { Cursor } from './cursor.ts';
import type { Token } from './lexer.ts';
import { beginsGate, gates } from './gate.ts';
import { NO_IMPLICIT_NETS } from './preprocess.ts';
import { parsePrimitive } from './primitive.ts';
import { GiveUp, type Messages } from './message.ts';
import { beginsDeclaration, parseDeclaration } from './declaration.ts';
import { parseExpression } from './expression.ts';
import { generateBody, generateCase, generateFor, generateIf } from './generate.ts';
import { instances } from './instance.ts';
import { parameterHeader, portHeader } from './ports.ts';
import { functionItem, taskItem } from './routine.ts';
import { lvalue, parseStatement } from './statement.ts';
import { parseDelay, parseEvents, parseStrength } from './timing.ts';
import { typeInExpression } from './type.ts';

const STOPS = new Set(['endmodule', 'module', 'macromodule', 'package', 'endpackage', 'primitive', 'endprimitive']);
const REFUSED: Readonly<Record<string, string>> = {
  interface: 'Interfaces are not taken. Bring the signals through ports, or put them into a packed struct.',
  modport: 'Interfaces are not taken. Bring the signals through ports.',
  class: 'Classes are not taken. Use modules, tasks and functions.',
  program: 'Programs are not taken. Write a module.',
  bind: 'Write the instance inside the module.',
  property: 'Concurrent assertions are not taken. Write "assert (...)" in an always block.',
  sequence: 'Concurrent assertions are not taken. Write "assert (...)" in an always block.',
  covergroup: 'Coverage is not taken. Leave it out.',
  clocking: 'Clocking blocks are not taken. Use @(posedge clock).',
  config: 'Configurations are not taken; the sources given are the design.',
  library: 'Libraries are not taken; the sources given are the design.',
  alias: 'Use assign.',
};
const ASSERTIONS = new Set(['assert', 'assume', 'cover']);

/** `broken` names modules that are there but could not be understood, so that nobody is told they are missing. */
export interface Parsed {
  readonly modules: readonly Module[];
  readonly packages: readonly Package[];
  readonly primitives: readonly Primitive[];
  /** Declarations outside any module. */
  readonly outside: readonly Item[];
  readonly broken: ReadonlySet<string>;
}

/** Reads modules and packages one after another; after a mistake it goes on with the next item, so that one run reports them all. `types` are names that
 * typedefs have made; more are added. */
export function parseModules(tokens: readonly Token[], messages: Messages, types: Set<string> = new Set()): Parsed {
  const cursor = new Cursor(tokens, messages, typeInExpression, types);
  const modules: Module[] = [];
  const packages: Package[] = [];
  const primitives: Primitive[] = [];
  const outside: Item[] = [];
  const broken = new Set<string>();
  while (!cursor.ended) {
    cursor.attributes();
    if (cursor.ended) break;
    const { token } = cursor;
    if (token.kind === 'directive') {
      directive(cursor);
      continue;
    }
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
    if (cursor.is('primitive')) {
      const name = cursor.ahead(1)?.text ?? '';
      const found = guarded(cursor, () => parsePrimitive(cursor), STOPS);
      if (found) primitives.push(found);
      else {
        broken.add(name);
        while (!cursor.ended && !cursor.is('module') && !cursor.accept('endprimitive')) cursor.next();
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
  return { modules, packages, primitives, outside, broken };
}

/** What a directive between two words says of the modules that follow. @source IEEE 1364-2005, clause 19 */
function directive(cursor: Cursor): void {
  const { told, token } = cursor;
  cursor.next();
  const [name, ...rest] = token.text.split(' ');
  const text = rest.join('');
  switch (name) {
    case '`timescale':
      told.timescale = timescale(text, token, cursor.messages);
      return;
    case '`unconnected_drive':
      told.unconnected = text === 'pull1' ? 'pull1' : 'pull0';
      return;
    case '`nounconnected_drive':
      told.unconnected = 'z';
      return;
    case '`resetall':
      Object.assign(told, { implicitNets: true, timescale: null, unconnected: 'z' });
      return;
    default:
      told.implicitNets = token.text !== NO_IMPLICIT_NETS;
  }
}

const POWERS: Readonly<Record<string, number>> = { s: 0, ms: -3, us: -6, ns: -9, ps: -12, fs: -15 };

/** `1ns/10ps` as powers of ten. @source IEEE 1364-2005, clause 19.8 */
function timescale(text: string, at: Token, messages: Messages): Module['timescale'] {
  const [unit, precision] = text.split('/').map((part) => {
    const [, digits, name] = /^(1|10|100)([munpf]?s)$/.exec(part) ?? [];
    return digits === undefined ? null : (POWERS[name ?? 's'] as number) + digits.length - 1;
  });
  if (typeof unit === 'number' && typeof precision === 'number' && precision <= unit) return { unit, precision };
  messages.error(
    'directive',
    at,
    `"${text}" is no time scale. Write one such as 1ns/1ps, the precision not above the unit.`,
  );
  return null;
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

function parseModule(cursor: Cursor): Module {
  const { implicitNets, timescale: given, unconnected } = cursor.told;
  const _at = cursor.next();
  if (!cursor.accept('automatic')) cursor.accept('static');
  const name = cursor.name('a module name');
  const items: Item[] = [];
  const ports: { name: string; at: Token }[] = [];
  while (cursor.is('import')) items.push(...parseDeclaration(cursor, false));
  if (cursor.accept('#')) parameterHeader(cursor, items);
  if (cursor.accept('(')) portHeader(cursor, ports, items, null);
  const { file, line, column } = cursor.expect(';', 'after the module header');
  const body = { file, line, column: column + 1 };
  while (!cursor.is('endmodule')) {
    if (cursor.ended || cursor.is('module')) {
      // What was read stands; the next module may be whole.
      cursor.messages.error('syntax', cursor.token, `The module "${name.text}" is never closed by "endmodule".`);
      return { at: name, body, name: name.text, ports, items, implicitNets, timescale: given, unconnected };
    }
    const found = guarded(cursor, () => parseItem(cursor), STOPS);
    if (found) items.push(...found);
  }
  cursor.next();
  if (cursor.accept(':')) cursor.name('a module name');
  return { at: name, body, name: name.text, ports, items, implicitNets, timescale: given, unconnected };
}

const parseItem = (cursor: Cursor): Item[] => cursor.nested(() => items(cursor));

function items(cursor: Cursor): Item[] {
  const { keep } = cursor.attributes();
  const { token } = cursor;
  if (token.kind === 'directive') {
    directive(cursor);
    return [];
  }
  if (cursor.accept(';')) return [];
  if (cursor.is('specify')) return specify(cursor);
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
  if (cursor.accept('defparam')) return defparams(cursor);
  if (/^always(_ff|_comb|_latch)?$/.test(token.text) && !token.escaped) return [always(cursor)];
  if (cursor.accept('initial')) return [{ kind: 'initial', at: token, body: parseStatement(cursor), atEnd: false }];
  if (cursor.is('final') && cursor.ahead(1)?.kind !== 'symbol') {
    cursor.next();
    return [{ kind: 'initial', at: token, body: parseStatement(cursor), atEnd: true }];
  }
  if (cursor.isAny(ASSERTIONS) && !cursor.isAssigned) return [concurrent(cursor)];
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
  if (beginsGate(cursor)) return gates(cursor);
  return instances(cursor);
}

const named = ({ items, name }: { items: Item[]; name: string | null }) => ({
  then: items,
  otherwise: [],
  names: [name, null] as const,
});

/** Delays and checks of timing describe a cell; they are passed over. @source IEEE 1364-2005, clause 14 */
function specify(cursor: Cursor): Item[] {
  const at = cursor.next();
  while (!cursor.accept('endspecify')) {
    if (cursor.ended || cursor.is('endmodule'))
      throw new GiveUp('syntax', at, 'This "specify" is never closed by "endspecify".');
    cursor.next();
  }
  return [];
}

/** `defparam u1.W = 8, u2.W = 4;`. */
function defparams(cursor: Cursor): Item[] {
  const items: Item[] = [];
  do {
    const target = lvalue(cursor);
    const at = cursor.expect('=', 'after the parameter');
    items.push({ kind: 'defparam', at, target, value: parseExpression(cursor) });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the parameters');
  return items;
}

function concurrent(cursor: Cursor): Item {
  const at = cursor.token;
  if (cursor.ahead(1)?.text === 'property')
    throw new GiveUp('not-taken', at, `"${at.text} property" is not taken. ${REFUSED.property}`);
  return { kind: 'always', at, edges: 'any', form: 'always_comb', body: parseStatement(cursor) };
}

function assigns(cursor: Cursor): Item[] {
  const items: Item[] = [];
  const strength = parseStrength(cursor);
  const delay = parseDelay(cursor);
  do {
    const target = lvalue(cursor);
    const at = cursor.expect('=', 'in the assignment');
    items.push({ kind: 'assign', at, target, value: parseExpression(cursor), delay, strength });
  } while (cursor.accept(','));
  cursor.expect(';', 'after the assignment');
  return items;
}

function always(cursor: Cursor): Item {
  const at = cursor.next();
  const form = at.text as 'always' | 'always_ff' | 'always_comb' | 'always_latch';
  if (form === 'always_comb' || form === 'always_latch')
    return { kind: 'always', at, edges: 'any', form, body: parseStatement(cursor) };
  const edges: EventList | null = cursor.is('@') ? parseEvents(cursor) : null;
  return { kind: 'always', at, edges, form, body: parseStatement(cursor) };
}
