// The netlist as a drawing, laid out in a worker.
export { SchematicView } from './view.tsx';
