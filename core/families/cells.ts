import type { GeneratorLimits, GeneratorSetting } from '../clocking/index.ts';
import { own } from '../lists.ts';

/** Delays of a part's cells at one speed grade, in nanoseconds. */
export interface Delays {
  readonly lut: number;
  /** One step along a carry chain. */
  readonly carry: number;
  /** Into or out of the chain. */
  readonly chainEnds: number;
  readonly clockToOut: number;
  readonly setup: number;
  readonly memoryClockToOut: number;
  readonly memorySetup: number;
  /** Reading a memory made of tables. */
  readonly tableMemory: number;
  /** A connection: the part for any, and the part that grows with the logarithm of how many inputs it reaches. */
  readonly route: number;
  readonly routeGrowth: number;
  /** From a pin into the fabric, and from there out. */
  readonly padIn: number;
  readonly padOut: number;
  /** From a clock's pin to the registers. */
  readonly clockIn: number;
}

/** What memories can be made of. */
export interface MemoryCells {
  /** Words by bits that one block RAM can be. */
  readonly shapes: readonly (readonly [words: number, bits: number])[];
  /** A memory of fewer bits than this is cheaper in tables. */
  readonly leastBlockBits: number;
  /** Words of one bit that a table holds. */
  readonly tableWords: number;
}

/** A cell that makes clocks of another one: what it is called in Verilog, and what it can do. */
export interface ClockGenerator {
  readonly module: string;
  /** Verilog that behaves like it, for simulation. */
  readonly behaviour: { readonly name: string; readonly text: string };
  readonly input: string;
  readonly outputs: readonly string[];
  /** Says that the outputs run. */
  readonly locked: string;
  /** Names of the parameters; that of each output stands where the output does. */
  readonly parameters: { readonly multiply: string; readonly divide: string; readonly outputs: readonly string[] };
  readonly limits: GeneratorLimits;
}

/** What an instance of the cell is set to; parameters that it does not have count as 0. */
export const settingOf = (
  { parameters: { multiply, divide, outputs } }: ClockGenerator,
  given: Readonly<Record<string, number>>,
): GeneratorSetting => {
  const of = (name: string) => own(given, name) ?? 0;
  return { multiply: of(multiply), divide: of(divide), outputs: outputs.map(of) };
};
