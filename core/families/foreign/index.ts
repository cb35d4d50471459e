// Any real part, known by its BSDL file: recognised in a chain, and the hub of its debug cores reached through a user register that
// somebody names. Builds nothing for it, and knows no maker.
export { foreignFamily, foreignSettings } from './family.ts';
export { knownFrom } from './known.ts';
