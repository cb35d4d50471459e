// Verilog in (IEEE 1364-2005, with a part of IEEE 1800), the elaborated design out, and from it a word-level netlist.
// Knows nothing of parts, pins or clocks' frequencies.
export { elaborate } from './elaborate.ts';
export * from './names/index.ts';
export {
  type Expression,
  GiveUp,
  type Item,
  type Insertion,
  type Message,
  Messages,
  type Primitive,
  type Severity,
  type SourceFile,
  type SourceMemory,
  type Statement,
  type Stop,
} from './read/index.ts';
