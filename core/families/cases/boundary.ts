import { caseDrawing } from './packages.ts';

/**
 * Boundary register of an invented part: three cells for each user pin in the order of the package, the first pin
 * nearest TDO. A control cell that holds 1 turns its driver off. docs/silicon.md, section 9
 */
export const CELLS_A_PIN = 3;
export const INPUT_CELL = 0;
export const OUTPUT_CELL = 1;
export const CONTROL_CELL = 2;

/** Names of the pins that have cells, in the order of the register. */
export const boundaryPins = (name: string): readonly string[] =>
  caseDrawing(name)
    .pins.filter((pin) => pin.kind === 'io')
    .map((pin) => pin.name);

export const boundaryLength = (name: string): number => boundaryPins(name).length * CELLS_A_PIN;

/** Pins of the test port: the first configuration pins of the package. */
export function testPins(name: string): {
  readonly tck: string;
  readonly tms: string;
  readonly tdi: string;
  readonly tdo: string;
  readonly done: string;
} {
  const [tck = '', tms = '', tdi = '', tdo = '', done = ''] = caseDrawing(name)
    .pins.filter((pin) => pin.kind === 'config')
    .map((pin) => pin.name);
  return { tck, tms, tdi, tdo, done };
}
