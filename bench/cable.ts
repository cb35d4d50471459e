import type { Cable, CableOp, CableState, ChainMemory } from '../core/jtag/index.ts';
import type { Bench } from './bench.ts';

/** A cable to a bench in the same process: time passes as fast as it can be computed. */
export class BenchCable implements Cable {
  chainMemory?: ChainMemory;
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

  async setPower(on: boolean): Promise<void> {
    this.#bench.setPower(on);
  }

  async reconfigure(): Promise<void> {
    this.#bench.reconfigure();
  }
}
