import type { BoardHands, BoardView, BootSource } from '../board/index.ts';
import type { Cable } from '../jtag/index.ts';

/** Controls of a board that a pod can reach, beside its cable. */
interface BoardControls extends BoardHands {
  /** Sets where the FPGA looks for its design at power-on. */
  bootSource?(source: BootSource): Promise<void>;
  /** Presses, releases or flips what the view lists by name; false where there is no such thing. */
  operate?(name: string, on: boolean): Promise<boolean>;
}

/** Faults that a stand-in can be given, so that their diagnosis can be learnt. */
interface Practice {
  faults(): readonly { readonly name: string; readonly label: string; readonly on: boolean }[];
  /** False where there is no such fault. */
  set(name: string, on: boolean): boolean;
}

/** How a serial line is spoken: 8 data bits and no parity is what most boards do (common practice). */
interface SerialSettings {
  /** In bit/s. */
  readonly rate: number;
  readonly dataBits: 5 | 6 | 7 | 8;
  readonly parity: 'none' | 'even' | 'odd';
  readonly stopBits: 1 | 2;
}

/** A second wire to the board, for what its design prints and is told. */
interface SerialLine {
  settings(settings: SerialSettings): Promise<void>;
  send(bytes: Uint8Array): Promise<void>;
  /** Hears of bytes as they come; gives what ends the hearing. */
  onBytes(listener: (bytes: Uint8Array) => void): () => void;
}

/**
 * What a pod owns: a cable at least. All else is there where the board behind it allows it, and missing means that the
 * person at the desk has to do it, or that nobody can see it.
 */
export interface PodTarget {
  readonly name: string;
  readonly cable: Cable;
  readonly controls?: BoardControls;
  /** A live picture of the board; called when somebody watches. */
  readonly view?: () => BoardView;
  readonly practice?: Practice;
  readonly line?: SerialLine;
  /** Of a simulation: its time per wall time over about the last second. */
  readonly speed?: () => number;
  /** What was done may have changed what the board keeps without power. */
  readonly kept?: () => void;
}
