// What a design asks of the board: which port is on which pin, at which levels. Reads and writes the ports table,
// checks it against part and board, and finds pins for ports by the board's net names. Knows nothing of what the design
// computes.
export { type PinEntry, parsePinTable, writePinTable } from './pin-table.ts';
export { checkPins, type PinIssue, type PlacedOn, type PortNeed } from './check-pins.ts';
export { type BoardDescription, readBoard } from './board.ts';
export { offerPins, type PinOffer } from './match.ts';
export { type OscillatorOnPin, oscillatorsOn } from './oscillators.ts';
export {
  NO_TIMING_RULES,
  type PortRule,
  readTimingTable,
  TIMING_TABLE,
  type TimingRules,
  type WayRule,
  withWayRule,
} from './timing-table.ts';
