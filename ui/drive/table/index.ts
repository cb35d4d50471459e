// A table of vectors on the hardware, beside the same in simulation.
export { TableView } from './view.tsx';
