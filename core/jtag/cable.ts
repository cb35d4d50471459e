import type { Problem } from '../result.ts';

/**
 * One thing a cable does. All vectors are packed, first bit first.
 *
 * - `tms`: `count` TCK cycles with the given TMS bits, TDI held at 1.
 * - `shift`: `count` cycles with TMS 0, TDI from `tdi`; `exit` makes TMS 1 on the last one; `capture` asks for the TDO
 *   bits.
 * - `clock`: `count` cycles with TMS 0 and TDI 1, in a state that TMS 0 does not leave.
 * - `wait`: TCK rests for that long.
 * - `trst`: the reset wire of the test port, where the board has one.
 */
export type CableOp =
  | { readonly kind: 'tms'; readonly count: number; readonly tms: Uint8Array }
  | {
      readonly kind: 'shift';
      readonly count: number;
      readonly tdi: Uint8Array;
      readonly capture: boolean;
      readonly exit: boolean;
    }
  | { readonly kind: 'clock'; readonly count: number }
  | { readonly kind: 'wait'; readonly microseconds: number }
  | { readonly kind: 'trst'; readonly asserted: boolean };

/** What a pod can tell without clocking anything. Frequencies in hertz. */
export interface CableState {
  /** A cable is plugged into the board's connector. */
  readonly attached: boolean;
  /**
   * Reference voltage the board puts on the cable, in volts; 0 when the board is not powered. Null where the pod has no
   * wire for it: whether the board is powered is then not known.
   */
  readonly referenceVolts: number | null;
  readonly tckHz: number;
  readonly leastHz: number;
  readonly mostHz: number;
  /** Why the pod cannot reach its own cable now. */
  readonly trouble?: Problem | null;
}

/** All that the engine knows of hardware: it can move TCK, TMS and TDI, read TDO and the reference voltage. */
export interface Cable {
  /**
   * Carries out a batch in order. TDO is sampled on the rising edge of TCK, before it changes on the falling one.
   * Resolves to the TDO bits of every `shift` that captures, in order. Rejects with `ProblemError` when the cable is
   * lost.
   */
  run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]>;
  /** TCK in hertz as it was last set or told, for cutting work by time; `state` asks for it. */
  readonly tckHz: number;
  state(): Promise<CableState>;
  /**
   * Sets the TCK frequency; resolves to what the pod can really do, the nearest at or below. With `keep` a pod that has
   * a memory begins with it after its next start too.
   */
  setFrequency(hz: number, keep?: boolean): Promise<number>;
}
