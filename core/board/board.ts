import type { Family } from '../families/index.ts';
import type { Cable, ChainMemory } from '../jtag/index.ts';

/** Where an FPGA looks for its design at power-on, as the board's switch or strap has it. */
export type BootSource = 'flash' | 'jtag';

/**
 * What can be done to a board beside its cable, where a pod has a relay or a wire for it. What is missing here only a
 * person at the desk can do.
 */
export interface BoardHands {
  /** Switches the supply. */
  power?(on: boolean): Promise<void>;
  /** Pulls the reconfigure wire low for a moment: the FPGA configures itself anew. */
  reconfigure?(): Promise<void>;
  /** Pulls the board's system reset low for a moment. */
  reset?(): Promise<void>;
}

/** A board as operations take it. */
export interface Board {
  readonly cable: Cable;
  readonly hands: BoardHands;
  /** What a person has said of the chain behind the cable; every operation heeds it. */
  readonly memory: ChainMemory;
  /** Families whose parts are known here by themselves. */
  readonly families: readonly Family[];
}
