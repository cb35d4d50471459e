// Boundary scan over a chain: pins watched and driven through boundary registers, and the test of the wiring between
// devices. Takes what BSDL says of the devices; knows no file and no board but its nets.
export { boundaryMap, type BoundaryMap } from './map.ts';
export { measureBoundary } from './measure.ts';
export { BoundaryScan, type PinLevel, type ScannedDevice } from './scan.ts';
export { type BoardNet, type InterconnectFault, type InterconnectResult, testInterconnect } from './interconnect.ts';
