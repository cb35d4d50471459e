import type { BoardHands, BoardView, BootSource } from '../board/index.ts';
import type { Cable } from '../jtag/index.ts';
import type { Result } from '../result.ts';
import type { LineSettings, PulseRun, SerialFrame } from '../serial/index.ts';

/** Controls of a board that a pod can reach, beside its cable. */
interface BoardControls extends BoardHands {
  /** Sets where the FPGA looks for its design at power-on. */
  bootSource?(source: BootSource): Promise<void>;
  /** Presses, releases or flips what the view lists by name; false where there is no such thing. */
  operate?(name: string, on: boolean): Promise<boolean>;
  /** Sets what a dial of the view reads; false where there is no such thing. */
  turn?(name: string, value: number): Promise<boolean>;
}

/** Faults that a stand-in can be given, so that their diagnosis can be learnt. */
interface Practice {
  faults(): readonly { readonly name: string; readonly label: string; readonly on: boolean }[];
  /** False where there is no such fault. */
  set(name: string, on: boolean): boolean;
}

/** What came on a serial line since it was taken last. Times in microseconds on the pod's own clock. */
export interface LineHeard {
  readonly now: number;
  readonly frames: readonly SerialFrame[];
  /** Frames that came before these and were not taken in time. */
  readonly lost: number;
  /** Some of the line's pulses, for measuring how long its bits are. */
  readonly pulses: PulseRun | null;
}

/** A second wire to the board, for what its design prints and is told. It listens whether anybody takes it or not. */
export interface SerialLine {
  /** Gives the settings that were made of these: the nearest rate it can. */
  set(settings: LineSettings): Promise<LineSettings>;
  /** Gives how many of the bytes are taken to be sent; the rest has to wait. */
  send(bytes: Uint8Array): Promise<number>;
  /** Holds the line at 0, as a break. */
  holdLow(milliseconds: number): Promise<void>;
  /** Forgets what waits to be sent. */
  drop(): Promise<void>;
  /** `queued`: bytes that wait; `waits`: the board asks for a pause. */
  readonly state: { readonly settings: LineSettings; readonly queued: number; readonly waits: boolean };
  /** Calls when there is something to take again. */
  onNews(listener: () => void): void;
  take(): LineHeard;
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
  /** Of a simulation: the same pod with another bench, from the text of its file. */
  readonly rebuilt?: (text: string) => Result<PodTarget>;
  /** What was done may have changed what the board keeps without power. */
  readonly kept?: () => void;
}
