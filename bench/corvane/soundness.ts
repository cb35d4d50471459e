import type { Memory, Netlist, NetNode, NodeId } from '../../core/netlist/index.ts';

/** More than any part holds, and little enough for what is made of it. */
export const WIDEST = 1 << 20;
export const MOST_DEPTH = 1 << 21;
const MOST_MEMORY_BITS = 1 << 26;
const MOST_NODE_BITS = 1 << 26;

const ONE_BIT = new Set<string>(['redand', 'redor', 'redxor', 'eq', 'ltu', 'lts']);
const AS_WIDE = new Set<string>([...['not', 'and', 'or', 'xor', 'add', 'sub', 'mul', 'divu', 'modu', 'divs', 'mods']]);
const SHIFTS = new Set<string>(['shl', 'shr', 'sra']);

/**
 * Whether frames hold a design that a part can be: every number names what is there, before its own where it has to be,
 * and as wide as its use. What is not is left alone: such a part stays dark. docs/silicon.md, section 5
 */
export function isSound(netlist: Netlist): boolean {
  const { nodes, inputs, outputs, registers, memories } = netlist;
  const isWide = (id: NodeId | null | undefined, width: number) =>
    id === null || id === undefined || nodes[id]?.width === width;
  const isBit = (id: NodeId | null | undefined) => isWide(id, 1);
  const bits = nodes.reduce((sum, { width }) => sum + width, 0);
  if (bits > MOST_NODE_BITS || !memories.every(fits)) return false;
  const held = new Set(registers.map(({ node }) => node));
  return (
    nodes.every((node, id) => isNodeSound(nodes, memories, node, id)) &&
    nodes.every(({ op }, id) => (op === 'reg') === held.has(id)) &&
    held.size === registers.length &&
    inputs.every(({ node }) => nodes[node]?.op === 'input') &&
    new Set(inputs.map(({ node }) => node)).size === inputs.length &&
    nodes.filter(({ op }) => op === 'input').length === inputs.length &&
    areNamesOwn(inputs.map(({ name }) => name)) &&
    areNamesOwn(outputs.map(({ name }) => name)) &&
    outputs.every(({ node, enable, width }) => node < nodes.length && isWide(enable, width)) &&
    registers.every(({ node, clock, d, reset, load }) => {
      const width = nodes[node]?.width ?? 0;
      return isBit(clock) && isBit(reset) && isWide(d, width) && isWide(load, width);
    }) &&
    memories.every(({ width, writes }) =>
      writes.every((w) => isBit(w.clock) && isBit(w.enable) && isWide(w.data, width) && w.address < nodes.length),
    )
  );
}

const areNamesOwn = (names: readonly string[]): boolean => new Set(names).size === names.length;

const fits = ({ width, depth, init }: Memory): boolean =>
  width >= 1 && width <= WIDEST && depth <= MOST_DEPTH && width * depth <= MOST_MEMORY_BITS && init.length <= depth;

function isNodeSound(nodes: readonly NetNode[], memories: readonly Memory[], node: NetNode, id: NodeId): boolean {
  const { op, width } = node;
  if (!(width >= 1 && width <= WIDEST) || !node.args.every((arg) => arg < id)) return false;
  const widths = node.args.map((arg) => nodes[arg]?.width ?? 0);
  const [first = 0, second = 0, third = 0] = widths;
  if (op === 'memread') return memories[node.memory]?.width === width;
  if (op === 'slice') return node.lo + width <= first;
  if (op === 'concat') return widths.length > 0 && widths.reduce((sum, one) => sum + one, 0) === width;
  if (op === 'sext') return first <= width;
  if (op === 'mux') return first === 1 && second === width && third === width;
  if (op === 'eq' || op === 'ltu' || op === 'lts') return width === 1 && first === second;
  if (ONE_BIT.has(op)) return width === 1;
  if (SHIFTS.has(op)) return first === width;
  if (AS_WIDE.has(op)) return widths.every((one) => one === width);
  return op === 'const' || op === 'input' || op === 'reg';
}
