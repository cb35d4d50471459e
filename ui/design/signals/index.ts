// All declared signals of the design.
export { SignalsView } from './view.tsx';
