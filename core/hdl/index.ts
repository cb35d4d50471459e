// Verilog in (IEEE 1364-2005, the synthesizable part, with a little of what people borrow from SystemVerilog), a
// word-level netlist out. Knows nothing of parts, pins or clocks' frequencies.
export { type Insertion, type Message, Messages, type Severity, type Stop } from './message.ts';
export { elaborate } from './elaborate.ts';
export type { HierarchyNode } from './scope.ts';
export type { SourceFile, SourceMemory } from './parse-sources.ts';
