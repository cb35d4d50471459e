/** @source IEEE 1149.1, BSDL annex, boundary register description */
export const CELL_FUNCTIONS = [
  'INPUT',
  'OUTPUT2',
  'OUTPUT3',
  'CONTROL',
  'CONTROLR',
  'INTERNAL',
  'CLOCK',
  'BIDIR',
  'OBSERVE_ONLY',
] as const;
export type CellFunction = (typeof CELL_FUNCTIONS)[number];

/**
 * One entry of the boundary register. `cell` 0 is nearest TDO. `port` is null for cells that belong to no port (`*`).
 */
export interface BoundaryCell {
  readonly cell: number;
  /** Kind of the cell, such as BC_1. */
  readonly kind: string;
  readonly port: string | null;
  readonly function: CellFunction;
  readonly safe: '0' | '1' | 'X';
  /** The cell whose value `value` disables the driver, and what the pin is then. */
  readonly disable: { readonly control: number; readonly value: 0 | 1; readonly result: string } | null;
  readonly line: number;
}

/** One bit of a port: `name` is the port's, with its index in brackets for a vector. */
export interface PortBit {
  readonly name: string;
  readonly direction: 'in' | 'out' | 'inout' | 'buffer' | 'linkage';
  /** Pin of the chosen package; null when no pin map names it. */
  readonly pin: string | null;
  readonly line: number;
}

/** The five wires of the test port by what they do; values are names of ports. */
interface TapPorts {
  readonly tdi: string | null;
  readonly tdo: string | null;
  readonly tms: string | null;
  readonly tck: string | null;
  readonly trst: string | null;
  /** Highest TCK frequency in hertz. */
  readonly mostHz: number | null;
}

/** What a BSDL file says of a device. Names keep their spelling; they are compared without regard to case. */
export interface BsdlEntity {
  readonly entity: string;
  readonly packageName: string | null;
  readonly ports: readonly PortBit[];
  readonly tap: TapPorts;
  readonly irLength: number | null;
  /** Opcodes of each instruction, most significant bit first, digits 0, 1 and X. Names in capitals. */
  readonly instructions: Readonly<Record<string, readonly string[]>>;
  /** Line of the file in which each of those opcodes stands. */
  readonly opcodeLines: Readonly<Record<string, readonly number[]>>;
  /** What Capture-IR loads, most significant bit first. */
  readonly irCapture: string | null;
  /** Thirty-two digits, most significant first; null for a device without one. */
  readonly idcode: string | null;
  readonly usercode: string | null;
  /** Registers that instructions select, with their lengths where the file gives them. */
  readonly registers: readonly {
    readonly name: string;
    readonly length: number | null;
    readonly instructions: readonly string[];
  }[];
  readonly boundaryLength: number | null;
  readonly cells: readonly BoundaryCell[];
}

/** `error` makes the description useless for the part it concerns, `warning` does not. Lines count from 1. */
export interface BsdlProblem {
  readonly severity: 'error' | 'warning';
  readonly line: number;
  readonly code: string;
  readonly message: string;
}
