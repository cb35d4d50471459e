// The debug cores as Verilog text, each a module of its own. Knows nothing of where they are put.
export { bridgeVerilog } from './bridge.ts';
export { comparatorVerilog } from './comparator.ts';
export { hubVerilog } from './hub.ts';
export { panelVerilog } from './panel.ts';
export { recorderVerilog } from './recorder.ts';
export { stepperVerilog } from './stepper.ts';
