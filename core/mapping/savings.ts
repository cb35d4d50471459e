import { item } from '../lists.ts';
import { type Netlist, type NetNode, type NodeId, takenBy } from '../netlist/index.ts';
import { counted } from '../words.ts';
import type { MemoryUse } from './memories.ts';
import type { LineUse } from './resources.ts';

/** Where most could be saved, and how. */
export interface Saving {
  readonly file: string;
  readonly line: number;
  /** LUTs that it would save, about. */
  readonly luts: number;
  readonly text: string;
}

/** Less than this is not worth a word. */
const LEAST = 12;

interface Used {
  readonly lines: readonly LineUse[];
  readonly memories: readonly MemoryUse[];
}

/** What may be said of operations of one kind that stand in one line. */
interface Kind {
  readonly name: string;
  /** LUTs of a way to do one of a width in more clocks, about; what it is, in words. */
  readonly instead: (width: number) => number;
  readonly how: string;
}

const log2 = (width: number): number => Math.ceil(Math.log2(Math.max(2, width)));

/**
 * Worked out by hand: a bit of the quotient a clock is a chain over the remainder and a choice of each of its bits; a
 * row of a product a clock is a chain over the sum; each with a count of the steps.
 */
const DIVISION: Kind = { name: 'division', instead: (w) => 2 * w + log2(w) + 4, how: 'one bit of the result a clock' };
const PRODUCT: Kind = { name: 'multiplication', instead: (w) => w + log2(w) + 4, how: 'one row of it a clock' };
const SHIFT: Kind = { name: 'shift by a variable', instead: (w) => w + log2(w) + 4, how: 'one place a clock' };

/**
 * The one line of advice that would save most in a design, told from the words of its optimised netlist and from what
 * its lines and memories take; null where there is none.
 */
export function mostSaved(source: Netlist, { lines, memories }: Used): Saving | null {
  const all = [...operations(source, lines), ...blocks(source, memories)];
  return all.filter(({ luts }) => luts >= LEAST).sort((x, y) => y.luts - x.luts)[0] ?? null;
}

/** Words that are taken whole somewhere: one bit chosen of a word is a shift too, but none that could take time. */
function takenWhole(source: Netlist): ReadonlySet<NodeId> {
  const taken = source.nodes.flatMap((node) => (node.op === 'slice' ? [] : node.args));
  return new Set([...takenBy(source), ...taken]);
}

function kindOf(source: Netlist, { op, args }: NetNode): Kind | null {
  const isConstant = (i: number) => source.nodes[args[i] ?? -1]?.op === 'const';
  if (op === 'divu' || op === 'modu' || op === 'divs' || op === 'mods') return DIVISION;
  if (op === 'mul' && !isConstant(0) && !isConstant(1)) return PRODUCT;
  if ((op === 'shl' || op === 'shr' || op === 'sra') && !isConstant(0) && !isConstant(1)) return SHIFT;
  return null;
}

/** Operations that could be done in several clocks, and products by constants that are several adders. */
function operations(source: Netlist, lines: readonly LineUse[]): Saving[] {
  const whole = takenWhole(source);
  const uses = new Map(lines.map((use) => [`${use.file}:${use.line}`, use]));
  const found = new Map<string, { readonly use: LineUse; readonly nodes: NodeId[] }>();
  for (const id of source.nodes.keys()) {
    const origin = source.origins[id];
    const use = uses.get(`${origin?.file}:${origin?.line}`);
    if (!use) continue;
    const key = `${use.file}:${use.line}`;
    const known = found.get(key);
    if (known) known.nodes.push(id);
    else found.set(key, { use, nodes: [id] });
  }
  return [...found.values()].flatMap(({ use, nodes }) => [
    ...[DIVISION, PRODUCT, SHIFT].flatMap((kind) =>
      inMoreClocks(source, use, kind, kind === SHIFT ? nodes.filter((id) => whole.has(id)) : nodes),
    ),
    ...byConstant(source, use, nodes),
  ]);
}

function inMoreClocks(source: Netlist, { file, line, luts }: LineUse, kind: Kind, nodes: readonly NodeId[]): Saving[] {
  const own = nodes.map((id) => item(source.nodes, id)).filter((node) => kindOf(source, node) === kind);
  if (own.length === 0) return [];
  const instead = own.reduce((sum, { width }) => sum + kind.instead(width), 0);
  const what = own.length === 1 ? `The ${kind.name}` : `The ${own.length} of ${kind.name}`;
  const text =
    `${what} at ${file}:${line} ${own.length === 1 ? 'takes' : 'take'} ${counted(luts, 'LUT')}; done ${kind.how} ` +
    `it is about ${instead}.`;
  return [{ file, line, luts: luts - instead, text }];
}

/** What is added up where something is multiplied by a constant: the digits of its shortest signed form, less one. */
function addersOf(constant: bigint): number {
  let digits = 0;
  for (let rest = constant; rest > 0n; rest >>= 1n) {
    if ((rest & 1n) === 0n) continue;
    digits++;
    // Of 3 as the last two bits, one is subtracted and carried on.
    rest += (rest & 3n) === 3n ? 1n : -1n;
  }
  return Math.max(0, digits - 1);
}

function byConstant(source: Netlist, { file, line, luts }: LineUse, nodes: readonly NodeId[]): Saving[] {
  return nodes.flatMap((id) => {
    const node = item(source.nodes, id);
    const by = node.args.map((arg) => item(source.nodes, arg)).find(({ op }) => op === 'const');
    if (node.op !== 'mul' || by?.op !== 'const') return [];
    const adders = addersOf(by.value);
    if (adders === 0) return [];
    const text =
      `The multiplication by ${by.value} at ${file}:${line} is ${counted(adders, 'adder')}, ${counted(luts, 'LUT')}; by a ` +
      'power of two it takes none.';
    return [{ file, line, luts, text }];
  });
}

/** Memories that are in LUTs because of how they are read or written. */
function blocks(source: Netlist, memories: readonly MemoryUse[]): Saving[] {
  return memories.flatMap(({ name, luts, reason }, i) => {
    const write = source.memories[i]?.writes[0];
    const read = source.nodes.findIndex((node) => node.op === 'memread' && node.memory === i);
    const { file = '', line = 0 } = source.origins[write?.data ?? read] ?? {};
    if (reason === null) return [];
    return [{ file, line, luts, text: `The memory ${name} takes ${counted(luts, 'LUT')}. ${reason}` }];
  });
}
