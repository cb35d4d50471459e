// A design as replay looks at it: optimised, with every declared name still there as an output of its own.
import { item } from '../lists.ts';
import { type Netlist, type NetNode, type NodeId, optimise, type Signal } from '../netlist/index.ts';

/** A declared name of a design. */
export interface NamedSignal extends Omit<Signal, 'node'> {
  /** Its node in `ReplayDesign.netlist`. */
  readonly node: NodeId;
}

/** Why nothing in the netlist decides what a signal is. */
type Undecided = 'lever' | 'free' | 'loop';

export interface ReplayDesign {
  /** Arguments before their users, no wires, constants and equal logic folded. */
  readonly netlist: Netlist;
  readonly signals: readonly NamedSignal[];
  /** Inputs of the netlist that are none of the design, by their names there. */
  readonly undecided: ReadonlyMap<string, { readonly signal: string; readonly why: Undecided }>;
}

/** No name in Verilog begins so. */
const MARK = '$replay ';
/** Rounds of breaking loops; each breaks one of every circle found. */
const MOST_ROUNDS = 200;

/**
 * Every name of an elaborated design, computed as far as the design itself decides it. What does not follow from it is
 * an input: wires without a driver, what a lever may have held (`levers`, full names), and one name of each circle
 * without a register, latches among them.
 */
export function replayDesign(source: Netlist, levers: readonly string[] = []): ReplayDesign {
  const undecided = new Map<string, { readonly signal: string; readonly why: Undecided }>();
  const nodes = [...source.nodes];
  const inputs = [...source.inputs];
  const open = (id: NodeId, signal: string, why: Undecided) => {
    const { width } = item(nodes, id);
    const name = `${MARK}${undecided.size}`;
    nodes[id] = { op: 'input', width, args: [], name };
    inputs.push({ name, node: id, width });
    undecided.set(name, { signal, why });
  };
  const byName = new Map(source.signals.map((signal) => [signal.name, signal]));
  for (const name of new Set(levers)) {
    const signal = byName.get(name);
    if (signal && nodes[signal.node]?.op === 'wire') open(signal.node, name, 'lever');
  }
  for (const [id, node] of source.nodes.entries())
    if (node.op === 'wire' && node.args.length === 0 && nodes[id] === node) open(id, node.name, 'free');
  const outputs = source.signals.map(({ name, node, width }) => ({ name, node, width }));
  // Its names say where a circle goes through.
  const whole = (): Netlist => ({ ...source, nodes, inputs, outputs });
  let done = optimise(whole());
  for (let round = 0; done.loops.length > 0 && round < MOST_ROUNDS; round++) {
    const before = undecided.size;
    for (const { names } of done.loops) {
      const found = wireOf(nodes, names, byName);
      if (found) open(found.node, found.name, 'loop');
    }
    // A circle that no name leads to: nothing is taken for known then.
    if (undecided.size === before)
      for (const { node, name } of source.signals) if (nodes[node]?.op === 'wire') open(node, name, 'loop');
    done = optimise(whole());
  }
  const at = new Map(done.netlist.outputs.map(({ name, node }) => [name, node]));
  const signals = source.signals.flatMap((signal): NamedSignal[] => {
    const node = at.get(signal.name);
    return node === undefined ? [] : [{ ...signal, node }];
  });
  return { netlist: done.netlist, signals, undecided };
}

/** The first name of a circle that is a wire still. */
function wireOf(
  nodes: readonly NetNode[],
  names: readonly string[],
  byName: ReadonlyMap<string, Signal>,
): { readonly node: NodeId; readonly name: string } | null {
  for (const name of names) {
    const node = byName.get(name)?.node ?? nodes.findIndex((one) => one.op === 'wire' && one.name === name);
    if (node >= 0 && nodes[node]?.op === 'wire') return { node, name };
  }
  return null;
}
