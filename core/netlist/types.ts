import type { Place } from '../result.ts';

/** Index into `Netlist.nodes`. */
export type NodeId = number;

/**
 * What a node computes from its arguments. Comparisons and reductions give one bit. `concat` takes its lowest part
 * first. `slice` takes `width` bits from bit `lo` up. `mux` is (condition, then, otherwise). Shift amounts are unsigned
 * words of any width. `wire` is a named point that carries its single argument, or nothing yet; it disappears when
 * optimised. Division by zero gives all ones, its remainder the dividend: a two-state stand-in for the standard's x.
 */
export type Op =
  | 'const'
  | 'input'
  | 'reg'
  | 'memread'
  | 'wire'
  | 'not'
  | 'and'
  | 'or'
  | 'xor'
  | 'redand'
  | 'redor'
  | 'redxor'
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
  | 'sra'
  | 'mux'
  | 'concat'
  | 'slice'
  | 'sext'
  | FourStateOp;

/**
 * Only in netlists for simulation with x and z. `caseeq`, `casezeq`, `casexeq` are the comparisons of ===, casez and
 * casex; `truth` is 1 for a bit that is 1 and 0 for any other; `shrx` shifts right and cuts, bits from outside the word
 * being x.
 */
export type FourStateOp = 'caseeq' | 'casezeq' | 'casexeq' | 'truth' | 'shrx';

export interface NetNode {
  readonly op: Op;
  readonly width: number;
  args: readonly NodeId[];
  readonly value?: bigint;
  /** `const` only: bits that are x (where `value` has 1) or z (where it has 0). */
  readonly unknown?: bigint;
  readonly lo?: number;
  /** `memread` only: index into `Netlist.memories`. */
  readonly memory?: number;
  /** `wire` and `input`: the name, for messages. */
  readonly name?: string;
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

export interface MemoryWrite {
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
  readonly node: NodeId;
  readonly width: number;
  readonly signed: boolean;
  readonly lsb: number;
  readonly kind: 'input' | 'output' | 'wire' | 'reg';
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

export interface Netlist {
  readonly nodes: NetNode[];
  /** Beside the nodes; missing for those nobody wrote. */
  readonly origins: (Origin | undefined)[];
  readonly registers: Register[];
  readonly memories: Memory[];
  readonly inputs: Port[];
  readonly outputs: Port[];
  readonly signals: Signal[];
}

export const emptyNetlist = (): Netlist => ({
  nodes: [],
  origins: [],
  registers: [],
  memories: [],
  inputs: [],
  outputs: [],
  signals: [],
});
