import type { BoardHands } from '../core/board/index.ts';
import type { Cable, CableOp, CableState } from '../core/jtag/index.ts';
import type { Bench } from './bench.ts';

/** A cable to a bench in the same process: time passes as fast as it can be computed. */
export class BenchCable implements Cable {
  readonly #bench: Bench;

  constructor(bench: Bench) {
    this.#bench = bench;
  }

  async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    return this.#bench.run(ops);
  }

  async state(): Promise<CableState> {
    return this.#bench.cableState;
  }

  async setFrequency(hz: number): Promise<number> {
    return this.#bench.setFrequency(hz);
  }

  get tckHz(): number {
    return this.#bench.cableState.tckHz;
  }
}

/** What a relay and a wire beside the cable can do to the bench's board. */
export const benchHands = (bench: Bench): BoardHands => ({
  power: async (on) => bench.setPower(on),
  reconfigure: async () => bench.reconfigure(),
});
