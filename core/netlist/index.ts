// The word-level netlist: nodes of any width, registers, memories, and the passes over them. Knows nothing of Verilog
// or parts.
export { NetBuilder } from './builder.ts';
export { allKnown, type Known } from './known.ts';
export { reachableValues } from './reach.ts';
export { apart, type Encoding, recoded, type StateMachine, stateMachines } from './recode.ts';
export { evaluateConstant } from './fold.ts';
export {
  arityOf,
  cellPort,
  clockNameOf,
  emptyNetlist,
  type Memory,
  isInnerPort,
  isLeaf,
  lowBitOf,
  lowOf,
  type MemReadNode,
  nameOf,
  type NetNode,
  type Netlist,
  type NodeId,
  type Origin,
  type Op,
  type PartCell,
  type Port,
  type Register,
  type Signal,
  withArgs,
  wordName,
} from './types.ts';
export { optimise, type Optimised } from './optimise.ts';
export type { CombinationalLoop } from './rebuild.ts';
export { forMapping, inBits } from './holds.ts';
export { takenBy, usesIn } from './uses.ts';
export { clocksOf, madeClocks } from './clocks.ts';
export { writeVerilog } from './write-verilog.ts';
export { LINK } from './link-ports.ts';
