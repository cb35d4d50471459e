import { item } from '../lists.ts';
import type { Netlist, NodeId } from '../netlist/index.ts';
import type { Schematic, SchematicEdge, SchematicNode, SchematicPort } from './graph.ts';
import { inputNameOf, signOf } from './signs.ts';

/** Where a value comes from: the output of a box. */
export interface Source {
  readonly port: string;
  readonly width: number;
  readonly name: string;
}

/** A lump of logic drawn open: a point on its frame for each source, and the operators between. */
interface Opened {
  readonly ports: readonly SchematicPort[];
  readonly inside: Schematic;
}

const MOST_OPERATORS = 400;

/** Name of the point on a lump's frame at which a source comes in. */
export const frameInput = (lump: string, source: Source): string => `${lump}!in ${source.port}`;

/** The operators that make some words of their sources, each with its statement. Parts of words are only wiring. */
export function drawOperators(
  netlist: Netlist,
  lump: string,
  made: readonly NodeId[],
  sources: ReadonlyMap<NodeId, Source>,
): Opened {
  const drawing = new Operators(netlist, lump, sources);
  return drawing.draw(made);
}

class Operators {
  readonly #netlist: Netlist;
  readonly #lump: string;
  readonly #sources: ReadonlyMap<NodeId, Source>;
  readonly #nodes = new Map<NodeId, SchematicNode>();
  readonly #edges = new Map<string, SchematicEdge>();
  readonly #ins = new Map<string, SchematicPort>();
  readonly #open: { readonly id: NodeId; readonly to: string }[] = [];
  #cut = false;

  constructor(netlist: Netlist, lump: string, sources: ReadonlyMap<NodeId, Source>) {
    this.#netlist = netlist;
    this.#lump = lump;
    this.#sources = sources;
  }

  draw(made: readonly NodeId[]): Opened {
    const out = `${this.#lump}!out`;
    const width = made.reduce((most, id) => Math.max(most, item(this.#netlist.nodes, id).width), 1);
    for (const id of made) this.#open.push({ id, to: out });
    for (let next = this.#open.pop(); next; next = this.#open.pop())
      for (const end of this.#ends(next.id)) this.#join(end, next.to);
    return {
      ports: [...this.#ins.values(), { id: out, name: '', side: 'out', width }],
      inside: { nodes: [...this.#nodes.values()], edges: [...this.#edges.values()], cut: this.#cut },
    };
  }

  /** What a word is taken from, seen through wiring. */
  #ends(id: NodeId): NodeId[] {
    if (this.#sources.has(id)) return [id];
    const { op, args } = item(this.#netlist.nodes, id);
    if (op === 'wire' || op === 'slice' || op === 'concat' || op === 'sext')
      return [...new Set(args.flatMap((arg) => this.#ends(arg)))].filter(
        (end) => op === 'slice' || op === 'wire' || item(this.#netlist.nodes, end).op !== 'const',
      );
    return op === 'reg' || op === 'input' || op === 'memread' ? [] : [id];
  }

  #join(end: NodeId, to: string): void {
    const source = this.#sources.get(end);
    const from = source ? this.#frame(source) : this.#box(end);
    if (from === null) return;
    const id = `${from}>${to}`;
    const { width } = item(this.#netlist.nodes, end);
    this.#edges.set(id, { id, from, to, name: source?.name ?? '', width });
  }

  #frame(source: Source): string {
    const id = frameInput(this.#lump, source);
    this.#ins.set(id, { id, name: source.name, side: 'in', width: source.width });
    return id;
  }

  /** The output of an operator's or a constant's box; null where there are too many. */
  #box(id: NodeId): string | null {
    const name = `${this.#lump}.${id}`;
    const out = `${name}!out`;
    if (this.#nodes.has(id)) return out;
    if (this.#nodes.size >= MOST_OPERATORS) {
      this.#cut = true;
      return null;
    }
    const node = item(this.#netlist.nodes, id);
    const origin = this.#netlist.origins[id];
    const isConstant = node.op === 'const';
    const ins = node.args.map((arg, i): SchematicPort => {
      const { width } = item(this.#netlist.nodes, arg);
      return { id: `${name}!${i}`, name: inputNameOf(node.op, i), side: 'in', width };
    });
    this.#nodes.set(id, {
      id: name,
      kind: isConstant ? 'constant' : 'operation',
      label: isConstant ? String(node.value) : signOf(node.op),
      detail: isConstant || node.width === 1 ? '' : `${node.width} bits`,
      path: '',
      file: origin?.file ?? '',
      line: origin?.line ?? 1,
      ports: [...ins, { id: out, name: '', side: 'out', width: node.width }],
    });
    for (const [i, arg] of node.args.entries()) this.#open.push({ id: arg, to: `${name}!${i}` });
    return out;
  }
}
