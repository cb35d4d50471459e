import type { Bits } from '../bits/index.ts';
import type { RecorderPlan } from '../probes/index.ts';

interface CapturedSignal {
  readonly name: string;
  readonly width: number;
  readonly lo: number;
  readonly signed: boolean;
  readonly domain: string;
  /** Values by the names the source has for them, decimal. */
  readonly names?: Readonly<Record<string, string>> | undefined;
}

/** A lever that gave a signal its value. `overrides` where it stands in for a driver, which it can be released to. */
export interface HeldLever {
  readonly signal: string;
  /** Decimal. */
  readonly value: string;
  readonly overrides: boolean;
}

/**
 * What signals were read to be at one sample, other than by being stored in it: by the recorder, at its trigger, or by
 * a panel while a stepper held the clock. Then only registers of that clock are sure to have stood.
 */
export interface ReadAt {
  readonly sample: number;
  readonly how: 'trigger' | 'standing';
  /** By the full names of the signals, decimal. */
  readonly values: Readonly<Record<string, string>>;
}

/** One filled recorder. `data` holds `samples` words of `sampleBits` bits, oldest first, packed without gaps. */
/** What was said over the board's serial line around a trigger. */
export interface SaidMeanwhile {
  /** When the recorder was seen to have triggered is known to so many seconds, before and after. */
  readonly within: number;
  /** `at` in seconds from the trigger. */
  readonly lines: readonly { readonly at: number; readonly way: 'in' | 'out'; readonly text: string }[];
}

export interface Capture {
  readonly recorder: string;
  readonly fingerprint: string;
  /** Digest of the design without what was inserted; absent in captures from before that was kept. */
  readonly sources?: string;
  readonly condition: string;
  readonly signals: readonly CapturedSignal[];
  readonly samples: number;
  readonly sampleBits: number;
  /** The sample in which the condition held, in each segment. */
  readonly triggerIndex: number;
  /** Equal parts, each with a trigger of its own; 1 where it is not said. */
  readonly segments?: number;
  /** Samples of a whole segment, where the last one was stopped before it was full. */
  readonly segmentSize?: number;
  /**
   * Bit of each word at which its 32-bit time stamp begins, in sampling clocks since arming; absent where every clock
   * was stored.
   */
  readonly stampAt?: number;
  /** Which samples were stored; empty for all. */
  readonly keep?: string;
  /**
   * Of captures from before levers were kept with their values: signals that they held in place of their drivers when
   * it was read.
   */
  readonly held?: readonly string[];
  /** What every lever in force stood at when it was read; absent in captures from before that was kept. */
  readonly levers?: readonly HeldLever[];
  /** Project it was taken from, and the recorder as it was built: what its plan had said then. */
  readonly design?: string;
  readonly plan?: RecorderPlan;
  readonly readings?: readonly ReadAt[];
  /** Absent where nothing was said, or nobody was there to see it trigger. */
  readonly line?: SaidMeanwhile;
  /** Hertz of the sampling clock. */
  readonly sampleRate: number;
  readonly data: Bits;
}
