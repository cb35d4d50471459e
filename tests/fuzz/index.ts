// Inputs that are nearly right, for everything that reads what others wrote.
export type { Batch, Done } from './child.ts';
export { READERS, type Reader } from './readers.ts';
export { type Chance, chanceFrom, seedOf } from './chance.ts';
export { type Fell, inputOf, tryOne } from './try-one.ts';
