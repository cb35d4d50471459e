import type { Place } from '../result.ts';

/** Index into `Netlist.nodes`. */
export type NodeId = number;

/** Words of one argument: inversion, reductions to one bit, sign extension to `width`. */
type UnaryOp = 'not' | 'redand' | 'redor' | 'redxor' | 'sext';

/**
 * Words of two arguments. Comparisons give one bit; shift amounts are unsigned words of any width. Division by zero
 * gives all ones, its remainder the dividend: a two-state stand-in for the standard's x.
 */
export type BinaryOp =
  | 'and'
  | 'or'
  | 'xor'
  | 'add'
  | 'sub'
  | 'mul'
  | 'divu'
  | 'modu'
  | 'divs'
  | 'mods'
  | 'eq'
  | 'ltu'
  | 'lts'
  | 'shl'
  | 'shr'
  | 'sra';

/** One word of the design: what it is, how many bits it has, and the words it is computed from. */
export type NetNode = ConstNode | InputNode | RegNode | MemReadNode | WireNode | ComputedNode;

/** What is computed from its arguments alone. */
type ComputedNode = UnaryNode | BinaryNode | MuxNode | ConcatNode | SliceNode;

interface ConstNode extends Word<'const', readonly []> {
  readonly value: bigint;
}

/** `name` for messages. */
interface InputNode extends Word<'input', readonly []> {
  readonly name: string;
}

/** What the register with this `node` holds. */
type RegNode = Word<'reg', readonly []>;

/** What a memory holds at an address; `memory` is an index into `Netlist.memories`. */
export interface MemReadNode extends Word<'memread', readonly [address: NodeId]> {
  readonly memory: number;
}

/** A named point that carries its single argument, or nothing yet; it disappears when optimised. */
interface WireNode extends Word<'wire', readonly [] | readonly [driver: NodeId]> {
  readonly name: string;
}

type UnaryNode = Word<UnaryOp, readonly [NodeId]>;
type BinaryNode = Word<BinaryOp, readonly [NodeId, NodeId]>;
type MuxNode = Word<'mux', readonly [condition: NodeId, then: NodeId, otherwise: NodeId]>;

/** The lowest part first. */
type ConcatNode = Word<'concat', readonly NodeId[]>;

/** `width` bits from bit `lo` up. */
interface SliceNode extends Word<'slice', readonly [NodeId]> {
  readonly lo: number;
}

interface Word<Kind extends string, Args extends readonly NodeId[]> {
  readonly op: Kind;
  readonly width: number;
  args: Args;
}

export type Op = NetNode['op'];
export type ComputedOp = ComputedNode['op'];

/** The name of a wire or an input; undefined for what has none. */
export const nameOf = (node: NetNode | undefined): string | undefined =>
  node?.op === 'wire' || node?.op === 'input' ? node.name : undefined;

/** What a clock is called: its port, or the port of the cell that makes it; undefined for one that logic makes. */
export const clockNameOf = (node: NetNode | undefined): string | undefined =>
  node?.op === 'input' ? node.name.replace(/^\$/, '') : nameOf(node);

/** What no other node decides at once: constants, inputs, registers, memories; and a wire, which only hands on. */
export const isLeaf = (node: NetNode): node is Exclude<NetNode, ComputedNode> =>
  node.op === 'const' || node.op === 'input' || node.op === 'reg' || node.op === 'memread' || node.op === 'wire';

/** The bit of its argument that a slice begins at; 0 for any other node. */
export const lowBitOf = (node: NetNode): number => (node.op === 'slice' ? node.lo : 0);

const ARITY: Readonly<Record<Exclude<Op, 'wire' | 'concat'>, number>> = {
  const: 0,
  input: 0,
  reg: 0,
  memread: 1,
  not: 1,
  redand: 1,
  redor: 1,
  redxor: 1,
  sext: 1,
  slice: 1,
  mux: 3,
  and: 2,
  or: 2,
  xor: 2,
  add: 2,
  sub: 2,
  mul: 2,
  divu: 2,
  modu: 2,
  divs: 2,
  mods: 2,
  eq: 2,
  ltu: 2,
  lts: 2,
  shl: 2,
  shr: 2,
  sra: 2,
};

/** The word that another one is with zeros above it; null where it is none such. */
export function lowOf(nodes: readonly NetNode[], id: NodeId): NodeId | null {
  const node = nodes[id];
  if (node?.op !== 'concat' || node.args.length !== 2) return null;
  const [low, high] = node.args;
  const zeros = high === undefined ? undefined : nodes[high];
  return zeros?.op === 'const' && zeros.value === 0n ? (low ?? null) : null;
}

/** How many arguments an operation takes; null where it is any number (`concat`), or none or one (`wire`). */
export const arityOf = (op: Op): number | null => (op === 'wire' || op === 'concat' ? null : ARITY[op]);

/** A node of the same kind with other arguments, as many as its kind takes; any other number throws `RangeError`. */
export function withArgs(node: { readonly op: Op; readonly width: number }, args: readonly NodeId[]): NetNode {
  const { op } = node;
  const wants = arityOf(op);
  if (wants === null ? op === 'wire' && args.length > 1 : args.length !== wants)
    throw new RangeError(`${op} takes ${wants ?? 'one'} arguments, not ${args.length}`);
  return { ...node, args } as NetNode;
}

/** A flip-flop word. `node` is its output. An asynchronous reset is active while its node is 1. */
export interface Register {
  readonly node: NodeId;
  readonly clock: NodeId;
  readonly edge: 'posedge' | 'negedge';
  d: NodeId;
  readonly reset: NodeId | null;
  readonly resetValue: bigint;
  /** What an active reset loads, where there are a set and a reset; null where it is always `resetValue`. */
  readonly load: NodeId | null;
  init: bigint;
  /** The source gives a power-up value; without one hardware starts at 0, a simulation at x. */
  initialised: boolean;
}

interface MemoryWrite {
  readonly clock: NodeId;
  readonly edge: 'posedge' | 'negedge';
  readonly enable: NodeId;
  readonly address: NodeId;
  readonly data: NodeId;
}

/**
 * Words of `width` bits, `init` with holes where the source gives none; reads outside give 0, writes outside are lost.
 * Reads see the value before the clock edge.
 */
export interface Memory {
  readonly name: string;
  readonly width: number;
  readonly depth: number;
  readonly init: bigint[];
  readonly writes: MemoryWrite[];
  /** How its words are numbered in the source, rows of the last range side by side; from 0 on where it is not said. */
  readonly ranges?: readonly { readonly lowest: number; readonly size: number }[];
}

/** A word of a memory as the source would write it. */
export function wordName({ name, ranges = [] }: Memory, word: number): string {
  if (ranges.length === 0) return `${name}[${word}]`;
  let rest = word;
  const indexes = ranges.toReversed().map(({ lowest, size }) => {
    const index = rest % size;
    rest = Math.floor(rest / size);
    return `[${lowest + index}]`;
  });
  return `${name}${indexes.toReversed().join('')}`;
}

/** `enable`, one bit for each of `width`, is there on pins that can float. */
export interface Port {
  readonly name: string;
  readonly node: NodeId;
  readonly width: number;
  readonly enable?: NodeId;
}

/**
 * A declared name in the hierarchy, such as `lockhouse.sequencer.state`. `lsb` is the number written on its lowest bit.
 */
export interface Signal {
  readonly name: string;
  /** What its bits are called, where they are no numbered ones; the lowest first. */
  readonly bitNames?: readonly string[];
  readonly node: NodeId;
  readonly width: number;
  readonly signed: boolean;
  readonly lsb: number;
  readonly kind: 'input' | 'output' | 'wire' | 'reg';
  /** Statements give it its values, whatever its kind; it is no net. */
  readonly variable?: boolean;
  readonly at: Place;
  /** Nothing in the design gives it a value: free to be driven by a lever. */
  readonly free: boolean;
  /** Marked in the source to survive optimisation. */
  readonly keep: boolean;
  /** Names of values, of an enum or of the labels of a case, value in decimal. */
  readonly names: readonly { readonly value: string; readonly name: string }[];
}

/** Whose logic a node is: the instance, and the statement it was made for. */
export interface Origin {
  readonly path: string;
  readonly file: string;
  readonly line: number;
}

/**
 * A cell of the part that a source instantiates, such as a clock generator. What it gives is an input of the netlist,
 * what it takes an output; `cellPort` names both.
 */
export interface PartCell {
  readonly module: string;
  /** The instance, without the top module's name. */
  readonly path: string;
  readonly parameters: Readonly<Record<string, number>>;
  readonly at: Place;
}

/** Name of a netlist's port that leads to a port of a cell: no name in Verilog begins so, so no port has it by accident. */
export const cellPort = (path: string, port: string): string => `$${path}.${port}`;

/** A port that no pin carries: of a cell, or of the link. */
export const isInnerPort = ({ name }: { readonly name: string }): boolean => name.startsWith('$');

export interface Netlist {
  readonly nodes: NetNode[];
  /** Beside the nodes; missing for those nobody wrote. */
  readonly origins: (Origin | undefined)[];
  readonly registers: Register[];
  readonly memories: Memory[];
  readonly inputs: Port[];
  readonly outputs: Port[];
  readonly signals: Signal[];
  readonly cells: PartCell[];
}

export const emptyNetlist = (): Netlist => ({
  nodes: [],
  origins: [],
  registers: [],
  memories: [],
  inputs: [],
  outputs: [],
  signals: [],
  cells: [],
});
