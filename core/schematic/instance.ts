import type { HierarchyNode } from '../hdl/index.ts';
import { item } from '../lists.ts';
import { nameOf, type Netlist, type NetNode, type NodeId, type Signal } from '../netlist/index.ts';
import { lastName, type Schematic, type SchematicEdge, type SchematicNode, type SchematicPort } from './graph.ts';
import { drawOperators, frameInput, type Source } from './operators.ts';

const MOST_NODES = 4000;

/**
 * One instance: its ports, the instances inside, its registers and memories, and between them the logic of each as one
 * box. Instances and boxes of logic named in `expanded` are drawn open, the latter down to their operators. Takes the
 * netlist as elaborated, with all names in it.
 */
export function drawInstance(
  netlist: Netlist,
  hierarchy: HierarchyNode,
  path: string,
  expanded: ReadonlySet<string>,
): Schematic | null {
  const wanted = findInstance(hierarchy, path);
  return wanted ? new Drawing(netlist, expanded).open(wanted, true) : null;
}

function findInstance(node: HierarchyNode, path: string): HierarchyNode | null {
  if (node.path === path) return node;
  for (const child of node.children)
    if (path === child.path || path.startsWith(`${child.path}.`)) return findInstance(child, path);
  return null;
}

class Drawing {
  readonly #netlist: Netlist;
  readonly #expanded: ReadonlySet<string>;
  /** Signals by the instance they are declared in. */
  readonly #signals = new Map<string, Signal[]>();
  readonly #registers = new Map<
    string,
    {
      readonly signal: Signal | undefined;
      readonly nodes: NodeId[];
      readonly clock: string;
      readonly inputs: NodeId[];
    }[]
  >();
  #count = 0;
  #cut = false;

  constructor(netlist: Netlist, expanded: ReadonlySet<string>) {
    this.#netlist = netlist;
    this.#expanded = expanded;
    const home = new Map<NodeId, Signal>();
    for (const signal of netlist.signals) {
      const path = signal.name.slice(0, signal.name.lastIndexOf('.'));
      const list = this.#signals.get(path);
      if (list) list.push(signal);
      else this.#signals.set(path, [signal]);
      for (const id of this.#parts(signal.node)) if (!home.has(id)) home.set(id, signal);
    }
    const names = new Map(netlist.signals.map((signal) => [signal.node, signal.name]));
    const groups = new Map<
      string,
      { signal: Signal | undefined; nodes: NodeId[]; clock: string; inputs: NodeId[]; path: string }
    >();
    for (const register of netlist.registers) {
      const signal = home.get(register.node);
      const path = netlist.origins[register.node]?.path ?? '';
      const key = signal?.name ?? `${path}.${register.node}`;
      const group = groups.get(key) ?? {
        signal,
        nodes: [],
        clock: lastName(names.get(register.clock) ?? nameOf(netlist.nodes[register.clock]) ?? ''),
        inputs: [],
        path,
      };
      group.nodes.push(register.node);
      group.inputs.push(register.d, ...(register.reset === null ? [] : [register.reset]));
      groups.set(key, group);
    }
    for (const group of groups.values())
      this.#registers.set(group.path, [...(this.#registers.get(group.path) ?? []), group]);
  }

  /** Registers a wire carries, directly or side by side. */
  #parts(id: NodeId): NodeId[] {
    const { op, args } = item(this.#netlist.nodes, id);
    if (op === 'reg') return [id];
    return op === 'wire' || op === 'concat' || op === 'slice'
      ? args.flatMap((arg) => (item(this.#netlist.nodes, arg).op === 'wire' ? [] : this.#parts(arg)))
      : [];
  }

  /** The contents of an instance. At the top its ports are boxes; inside another one they are points on its frame. */
  open(instance: HierarchyNode, top: boolean): Schematic {
    const nodes: SchematicNode[] = [];
    const edges: SchematicEdge[] = [];
    const sources = new Map<NodeId, Source>();
    const sinks: {
      readonly port: string;
      readonly from: readonly NodeId[];
      readonly owner: string;
      readonly file: string;
      readonly line: number;
    }[] = [];
    const own = this.#signals.get(instance.path) ?? [];
    for (const signal of own.filter((s) => s.kind === 'input' || s.kind === 'output')) {
      const outside = signal.kind === 'input' ? 'out' : 'in';
      const port = top ? `${signal.name}!${outside}` : `${signal.name}!${signal.kind === 'input' ? 'in' : 'out'}`;
      if (top)
        nodes.push(
          this.#box(
            signal.kind === 'input' ? 'input' : 'output',
            signal.name,
            lastName(signal.name),
            signal.width > 1 ? `${signal.width} bits` : '',
            signal.at,
            [{ id: port, name: '', side: outside, width: signal.width }],
          ),
        );
      if (signal.kind === 'input') sources.set(signal.node, { port, width: signal.width, name: lastName(signal.name) });
      else sinks.push({ port, from: [signal.node], owner: signal.name, ...placeOf(signal.at) });
    }
    for (const child of instance.children) this.#child(child, nodes, sources, sinks);
    for (const group of this.#registers.get(instance.path) ?? []) {
      const name = group.signal?.name ?? `${instance.path}.${group.nodes[0]}`;
      const width = group.nodes.reduce((sum, id) => sum + item(this.#netlist.nodes, id).width, 0);
      const origin = this.#netlist.origins[item(group.nodes, 0)];
      const at = group.signal?.at ?? { file: origin?.file ?? '', line: origin?.line ?? 1 };
      // An output port may have the register's own name.
      const id = `register ${name}`;
      nodes.push({
        ...this.#box('register', name, lastName(name), `${width > 1 ? `${width} bits, ` : ''}${group.clock}`, at, [
          { id: `${id}!in`, name: '', side: 'in', width },
          { id: `${id}!out`, name: '', side: 'out', width },
        ]),
        id,
      });
      for (const node of group.nodes) sources.set(node, { port: `${id}!out`, width, name: lastName(name) });
      sinks.push({ port: `${id}!in`, from: group.inputs, owner: id, ...placeOf(at) });
    }
    for (const [index, memory] of this.#netlist.memories.entries()) {
      if (memory.name.slice(0, memory.name.lastIndexOf('.')) !== instance.path) continue;
      const origin = this.#netlist.origins[memory.writes[0]?.data ?? -1];
      const at = { file: origin?.file ?? instance.file, line: origin?.line ?? instance.line };
      nodes.push(
        this.#box('memory', memory.name, lastName(memory.name), `${memory.depth} words of ${memory.width} bits`, at, [
          { id: `${memory.name}!in`, name: '', side: 'in', width: memory.width },
          { id: `${memory.name}!out`, name: '', side: 'out', width: memory.width },
        ]),
      );
      const reads: NodeId[] = [];
      for (const [id, node] of this.#netlist.nodes.entries()) {
        if (node.op !== 'memread' || node.memory !== index) continue;
        sources.set(id, { port: `${memory.name}!out`, width: memory.width, name: lastName(memory.name) });
        reads.push(...node.args);
      }
      sinks.push({
        port: `${memory.name}!in`,
        from: [...memory.writes.flatMap((w) => [w.address, w.data, w.enable]), ...reads],
        owner: memory.name,
        ...placeOf(at),
      });
    }
    this.#namedLogic(own, sources, sinks, nodes);
    for (const sink of sinks) this.#connect(sink, sources, nodes, edges);
    return { nodes, edges, cut: this.#cut };
  }

  #child(
    child: HierarchyNode,
    nodes: SchematicNode[],
    sources: Map<NodeId, Source>,
    sinks: { port: string; from: readonly NodeId[]; owner: string; file: string; line: number }[],
  ): void {
    const ports = (this.#signals.get(child.path) ?? []).filter((s) => s.kind === 'input' || s.kind === 'output');
    const box = this.#box(
      'instance',
      child.path,
      child.name,
      child.module,
      child,
      ports.map(
        (s): SchematicPort => ({
          id: `${s.name}!${s.kind === 'input' ? 'in' : 'out'}`,
          name: lastName(s.name),
          side: s.kind === 'input' ? 'in' : 'out',
          width: s.width,
        }),
      ),
    );
    nodes.push(this.#expanded.has(child.path) ? { ...box, inside: this.open(child, false) } : box);
    for (const signal of ports) {
      if (signal.kind === 'output')
        sources.set(signal.node, { port: `${signal.name}!out`, width: signal.width, name: lastName(signal.name) });
      else
        sinks.push({
          port: `${signal.name}!in`,
          from: item(this.#netlist.nodes, signal.node).args,
          owner: signal.name,
          file: child.file,
          line: child.line,
        });
    }
  }

  /** Wires that logic gives their value are boxes of their own, so that what several readers share is drawn once. */
  #namedLogic(
    own: readonly Signal[],
    sources: Map<NodeId, Source>,
    sinks: { port: string; from: readonly NodeId[]; owner: string; file: string; line: number }[],
    nodes: SchematicNode[],
  ): void {
    const wires = own.filter(
      (signal) =>
        (signal.kind === 'wire' || signal.kind === 'reg') &&
        !sources.has(signal.node) &&
        this.#startsWithLogic(signal.node),
    );
    for (const signal of wires) {
      const id = `${signal.name}~logic`;
      nodes.push({
        ...this.#box(
          'logic',
          signal.name,
          lastName(signal.name),
          signal.width > 1 ? `${signal.width} bits` : '',
          signal.at,
          [
            { id: `${id}!in`, name: '', side: 'in', width: signal.width },
            { id: `${id}!out`, name: '', side: 'out', width: signal.width },
          ],
        ),
        id,
      });
      sources.set(signal.node, { port: `${id}!out`, width: signal.width, name: lastName(signal.name) });
      sinks.push({
        port: `${id}!in`,
        from: item(this.#netlist.nodes, signal.node).args,
        owner: id,
        ...placeOf(signal.at),
      });
    }
  }

  /** The first thing behind a name is an operation, not another name or a register. */
  #startsWithLogic(id: NodeId): boolean {
    const { args } = item(this.#netlist.nodes, id);
    return args.some((arg) => {
      const { op } = item(this.#netlist.nodes, arg);
      if (op === 'concat' || op === 'slice') return this.#startsWithLogic(arg);
      return op !== 'wire' && op !== 'reg' && op !== 'input' && op !== 'const' && op !== 'memread';
    });
  }

  #box(
    kind: SchematicNode['kind'],
    path: string,
    label: string,
    detail: string,
    at: { readonly file: string; readonly line: number },
    ports: readonly SchematicPort[],
  ): SchematicNode {
    if (this.#count++ > MOST_NODES) this.#cut = true;
    return { id: path, kind, label, detail, path, file: at.file, line: at.line, ports };
  }

  /** Lines from every source of a sink; where operations lie between, they are one box. */
  #connect(
    sink: {
      readonly port: string;
      readonly from: readonly NodeId[];
      readonly owner: string;
      readonly file: string;
      readonly line: number;
    },
    sources: ReadonlyMap<NodeId, Source>,
    nodes: SchematicNode[],
    edges: SchematicEdge[],
  ): void {
    if (this.#cut) return;
    const found = new Map<string, Source>();
    let operations = 0;
    const seen = new Set<NodeId>();
    const open = [...sink.from];
    let at: { file: string; line: number } | null = null;
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (seen.has(id)) continue;
      seen.add(id);
      const source = sources.get(id);
      if (source) {
        found.set(source.port, source);
        continue;
      }
      const { op, args } = item(this.#netlist.nodes, id);
      if (op === 'reg' || op === 'input' || op === 'const' || op === 'memread') continue;
      if (op !== 'wire' && op !== 'slice' && op !== 'concat') {
        operations++;
        at ??= this.#netlist.origins[id] ?? null;
      }
      open.push(...args);
    }
    if (found.size === 0) return;
    const named = sink.owner.endsWith('~logic');
    const lump = named ? sink.owner : `${sink.owner}~logic`;
    const opened =
      operations > 0 && this.#expanded.has(lump) ? drawOperators(this.#netlist, lump, sink.from, sources) : null;
    if (operations > 0 && !named) this.#lump(lump, operations, sink, at ?? sink, nodes, edges);
    if (opened) {
      const place = nodes.findIndex(({ id }) => id === lump);
      if (opened.inside.cut) this.#cut = true;
      nodes[place] = { ...item(nodes, place), ...opened };
    }
    const into = operations > 0 ? `${lump}!in` : sink.port;
    for (const source of found.values()) {
      const to = opened ? frameInput(lump, source) : into;
      // Of a lump that is cut short not every source is drawn.
      if (opened?.ports.every(({ id }) => id !== to)) continue;
      edges.push({ id: `${source.port}>${to}`, from: source.port, to, name: source.name, width: source.width });
    }
  }

  /** A box for the operations in front of a sink, joined to it. */
  #lump(
    id: string,
    operations: number,
    sink: { readonly port: string; readonly from: readonly NodeId[]; readonly owner: string },
    at: { readonly file: string; readonly line: number },
    nodes: SchematicNode[],
    edges: SchematicEdge[],
  ): void {
    const name = lastName(sink.owner.replace('register ', ''));
    const label = `${operations} ${operations === 1 ? 'operation' : 'operations'}`;
    const point = (side: 'in' | 'out'): SchematicPort => ({ id: `${id}!${side}`, name: '', side, width: 1 });
    nodes.push({ ...this.#box('logic', id, label, `for ${name}`, at, [point('in'), point('out')]), path: '' });
    const { port: to, from } = sink;
    edges.push({ id: `${id}>${to}`, from: `${id}!out`, to, name, width: this.#widthOf(from) });
  }

  #widthOf(ids: readonly NodeId[]): number {
    return (this.#netlist.nodes[ids[0] ?? -1] as NetNode | undefined)?.width ?? 1;
  }
}

const placeOf = ({ file, line }: { readonly file: string; readonly line: number }) => ({ file, line });
