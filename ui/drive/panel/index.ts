// Levers, gauges and held clocks of the design that runs.
export { PanelView } from './view.tsx';
