// What a design does, as a word-level netlist: registers, memories, gates. Knows nothing of parts and of time; what
// belongs in a simulation is passed over or refused here.
export { synthesize } from './synthesize.ts';
