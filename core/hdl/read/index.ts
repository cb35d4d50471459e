// Verilog text in (IEEE 1364-2005 whole; of IEEE 1800 what design and testbench need without classes), a tree out for
// each module. Knows no names but those of types: what a word stands for is found out in names/.
export type * from './ast.ts';
export { type Fix, GiveUp, type Insertion, type Message, Messages, type Severity, type Stop } from './message.ts';
export { findBeside, type SourceFile } from './preprocess.ts';
export { parseSources, type SourceMemory } from './sources.ts';
