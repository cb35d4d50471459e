import { fail, ok, type Result } from '../result.ts';
import type { HubClient } from './hub-client.ts';
import type { StepperMap } from './map.ts';
import { problem } from './problems.ts';
import type { TriggerProgram } from './program.ts';
import { comparatorRows, comparatorSigns, rowWords } from './recorder-words.ts';

const KIND = 0x53540001n;
const REGISTER = { kind: 0, count: 0, chosen: 1, row: 2, control: 3, tables: 5 } as const;
const ROW_SHIFT = 4;
const WAYS = { hold: 0n, run: 1n, step: 2n, until: 3n } as const;
const HOLDS = 1n << 8n;
/** So often a clock is asked that does not move: a slow one takes longer than the scan that asks it. */
const POLLS = 40;
const POLL_MICROSECONDS = 200;

/** How a clock stands that a stepper lets through. */
export interface StepperState {
  /** Whether the last order has reached the clock. */
  readonly heard: boolean;
  readonly running: boolean;
  /** Steps are being made. */
  readonly stepping: boolean;
  /** Whether the condition holds that was set last. */
  readonly holds: boolean;
  /** Steps of the last order that were not made; known once nothing moves. */
  readonly left: number;
}

/** The host's side of one stepper. docs/silicon.md, section 6 */
export class StepperClient {
  readonly #hub: HubClient;
  readonly #map: StepperMap;

  constructor(hub: HubClient, map: StepperMap) {
    this.#hub = hub;
    this.#map = map;
  }

  /** Whether the core means by its registers what this client does. */
  async isKnown(): Promise<boolean> {
    const [kind] = await this.#hub.read(this.#map.core, REGISTER.kind, 1);
    return kind === KIND;
  }

  /** Queues that the clock is let through from now on. */
  run(): void {
    this.#order('run');
  }

  /** Queues that it is held. */
  hold(): void {
    this.#order('hold');
  }

  /** Queues so many steps, 0 to 2^32 - 1, at the full rate of the clock. */
  step(count: number): void {
    this.#hub.write(this.#map.core, REGISTER.count, [BigInt(count)]);
    this.#order('step');
  }

  /**
   * Queues steps until a condition holds, at most so many; none where it holds already. Of the program its comparators
   * count and the table of its only stage.
   */
  until({ comparators, stages }: TriggerProgram, most: number): void {
    const { core, width } = this.#map;
    const { carry, turned } = comparatorSigns(comparators);
    const bits = BigInt(this.#map.comparators);
    const chosen = (mask: bigint) => mask | (carry << bits) | (turned << (2n * bits));
    for (const [i, comparator] of comparators.entries()) {
      this.#hub.write(core, REGISTER.chosen, [chosen(1n << BigInt(i))]);
      for (const [at, row] of comparatorRows(comparator, width).entries())
        this.#hub.write(core, REGISTER.row | (at << ROW_SHIFT), rowWords(row));
    }
    const table = stages[0]?.table ?? 0;
    this.#hub.write(
      core,
      REGISTER.tables,
      Array.from({ length: 1 << this.#map.comparators }, (_, i) => BigInt(i) | ((table >>> i) & 1 ? HOLDS : 0n)),
    );
    this.#hub.write(core, REGISTER.count, [BigInt(most)]);
    this.#order('until');
  }

  /** How it stands, carried out by a later flush. */
  async stateLater(): Promise<StepperState> {
    const [kind, state = 0n, left = 0n] = await this.#hub.readLater(this.#map.core, REGISTER.kind, 3);
    const bit = (at: bigint) => ((state >> at) & 1n) === 1n;
    return {
      // What a lost cable gives could be read as a clock at rest.
      ...{ heard: kind === KIND && bit(0n) === bit(4n), running: bit(1n), stepping: bit(2n), holds: bit(3n) },
      left: Number(left),
    };
  }

  async state(): Promise<StepperState> {
    const state = this.stateLater();
    await this.#hub.flush();
    return state;
  }

  /** Waits until the last order has reached the clock. */
  heard(): Promise<Result<StepperState>> {
    return this.#until(({ heard }) => heard);
  }

  /** Waits until nothing moves; as long as steps are being made they may take their time. */
  atRest(): Promise<Result<StepperState>> {
    return this.#until(isAtRest);
  }

  async #until(isSo: (state: StepperState) => boolean): Promise<Result<StepperState>> {
    let state = await this.state();
    for (let polls = 0; polls < POLLS; ) {
      if (isSo(state)) return ok(state);
      const { left } = state;
      this.#hub.queue.wait(POLL_MICROSECONDS);
      state = await this.state();
      polls = state.left === left ? polls + 1 : 0;
    }
    if (!(await this.#hub.answers())) return fail(problem('link-lost'));
    return fail(problem('clock-stands', { name: this.#map.name, clock: this.#map.clock }));
  }

  #order(way: keyof typeof WAYS): void {
    this.#hub.write(this.#map.core, REGISTER.control, [(WAYS[way] << 1n) | 1n]);
    this.#hub.cross();
  }
}

/** Whether every step of the last order was made, or given up, and the clock is held. */
export const isAtRest = ({ heard, running, stepping }: StepperState): boolean => heard && !running && !stepping;
