// Clocks made from clocks: what a clock generator's factors make of an oscillator, which factors reach a wanted
// frequency, and how the edges of clocks that come from one oscillator lie to each other, in whole numbers. Knows no
// part: what a cell can do comes as its limits.
export {
  type GeneratorLimits,
  type GeneratorSetting,
  madeHertz,
  type OutOfRange,
  outOfRange,
} from './generator.ts';
export { type Factors, factorsFor } from './factors.ts';
export { ClockFamilies, type MadeClock, reduced } from './ratio.ts';
