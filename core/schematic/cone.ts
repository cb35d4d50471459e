import { entry, item } from '../lists.ts';
import type { Netlist, NodeId, Signal } from '../netlist/index.ts';
import { lastName, type Schematic, type SchematicEdge, type SchematicNode } from './graph.ts';
import { inputNameOf, signOf } from './signs.ts';

const MOST_NODES = 2000;

/**
 * Everything that decides the value of a signal, back to registers, memories and inputs. Takes an optimised netlist.
 */
export function drawCone(netlist: Netlist, name: string): Schematic | null {
  const wanted = netlist.signals.find((signal) => signal.name === name);
  if (!wanted) return null;
  const drawing = new Cone(netlist);
  return drawing.draw(wanted);
}

class Cone {
  readonly #netlist: Netlist;
  readonly #names = new Map<NodeId, Signal>();
  readonly #nodes = new Map<string, SchematicNode>();
  readonly #edges = new Map<string, SchematicEdge>();
  #cut = false;

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    for (const signal of netlist.signals) {
      const known = this.#names.get(signal.node);
      if (!known || signal.name.length < known.name.length) this.#names.set(signal.node, signal);
    }
  }

  draw(wanted: Signal): Schematic {
    const register = this.#netlist.registers.find((r) => r.node === wanted.node);
    const end: SchematicNode = {
      id: 'end',
      kind: register ? 'register' : 'output',
      label: lastName(wanted.name),
      detail: wanted.width > 1 ? `${wanted.width} bits` : '',
      path: wanted.name,
      file: wanted.at.file,
      line: wanted.at.line,
      ports: [{ id: 'end!0', name: '', side: 'in', width: wanted.width }],
    };
    this.#nodes.set('end', end);
    const open: { id: NodeId; to: string }[] = [{ id: register ? register.d : wanted.node, to: 'end!0' }];
    if (register?.reset !== null && register?.reset !== undefined) open.push({ id: register.reset, to: 'end!0' });
    for (let next = open.pop(); next; next = open.pop()) {
      for (const source of this.#sourcesOf(next.id)) {
        const known = this.#nodes.has(`n${source}`);
        const node = known ? entry(this.#nodes, `n${source}`) : this.#add(source);
        if (!node) break;
        const key = `n${source}!out>${next.to}`;
        this.#edges.set(key, {
          id: key,
          from: `n${source}!out`,
          to: next.to,
          name: this.#names.get(source)?.name ?? '',
          width: item(this.#netlist.nodes, source).width,
        });
        const { op, args } = item(this.#netlist.nodes, source);
        if (known || op === 'reg' || op === 'input' || op === 'const') continue;
        for (const [i, arg] of args.entries()) open.push({ id: arg, to: `n${source}!${i}` });
      }
    }
    return { nodes: [...this.#nodes.values()], edges: [...this.#edges.values()], cut: this.#cut };
  }

  /** Parts of words are only wiring: what they are taken from is the source. */
  #sourcesOf(id: NodeId): NodeId[] {
    const { op, args } = item(this.#netlist.nodes, id);
    if (op === 'slice' || op === 'concat' || op === 'sext' || op === 'wire')
      return [...new Set(args.flatMap((arg) => this.#sourcesOf(arg)))].filter(
        (source) => op === 'slice' || item(this.#netlist.nodes, source).op !== 'const',
      );
    return [id];
  }

  #add(id: NodeId): SchematicNode | null {
    if (this.#nodes.size >= MOST_NODES) {
      this.#cut = true;
      return null;
    }
    const word = item(this.#netlist.nodes, id);
    const { op, width } = word;
    const origin = this.#netlist.origins[id];
    const signal = this.#names.get(id);
    const at = signal?.at ?? { file: origin?.file ?? '', line: origin?.line ?? 1 };
    const bits = width > 1 ? `${width} bits` : '';
    const out = { id: `n${id}!out`, name: '', side: 'out' as const, width };
    const ins = word.args.map((arg, i) => ({
      id: `n${id}!${i}`,
      name: inputNameOf(op, i),
      side: 'in' as const,
      width: item(this.#netlist.nodes, arg).width,
    }));
    const base = { id: `n${id}`, path: signal?.name ?? '', file: at.file, line: at.line };
    const node: SchematicNode = (() => {
      switch (word.op) {
        case 'reg':
          return {
            ...base,
            kind: 'register' as const,
            label: lastName(signal?.name ?? origin?.path ?? 'register'),
            detail: bits,
            ports: [out],
          };
        case 'input':
          return { ...base, kind: 'input' as const, label: word.name, detail: bits, ports: [out] };
        case 'const':
          return { ...base, kind: 'constant' as const, label: `${word.value}`, detail: '', ports: [out] };
        case 'memread':
          return {
            ...base,
            kind: 'memory' as const,
            label: lastName(this.#netlist.memories[word.memory]?.name ?? 'memory'),
            detail: bits,
            ports: [...ins, out],
          };
        default:
          return {
            ...base,
            kind: 'operation' as const,
            label: signOf(op),
            detail: signal ? lastName(signal.name) : bits,
            ports: [...ins, out],
          };
      }
    })();
    this.#nodes.set(node.id, node);
    return node;
  }
}
