// A design as boxes and lines: an instance with what is in it, or everything that feeds a signal. Gives graphs; laying
// them out and drawing them is others' work.
export { drawInstance } from './instance.ts';
export { drawCone } from './cone.ts';
export { countBoxes } from './graph.ts';
export type { Schematic, SchematicNode } from './graph.ts';
