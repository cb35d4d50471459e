// The cases that invented parts come in, the boundary register around their pins, and its description. Data that
// several families share; knows none of them.
export { bsdlText } from './bsdl-text.ts';
export { caseDrawing } from './packages.ts';
