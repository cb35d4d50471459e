import type { Bench } from './bench.ts';

const TURN_MILLISECONDS = 8;
/** While no design runs, a turn now and then is enough: nothing happens between them. */
const REST_MILLISECONDS = 100;
/** Of each turn, the most that may be spent computing; the rest belongs to those who ask the pod something. */
const BUSY_SHARE = 0.9;
/**
 * While scans come in, the simulation moves with them and keeps its own turns this short, so that each is answered at
 * once.
 */
const POLITE_MILLISECONDS = 2;
const QUIET_AFTER_MILLISECONDS = 8;
const SLICE_MICROSECONDS = 500;
/** What is behind by less is left for the next turn: the wall goes on while it is caught up with. */
const LEAST_MICROSECONDS = 200;
const MOST_BEHIND_MICROSECONDS = 150_000;

/** Keeps a bench's time level with the clock on the wall, as well as the machine can; says how well that goes. */
export class RealTime {
  readonly #bench: Bench;
  #timer: ReturnType<typeof setTimeout> | null = null;
  #origin: number;
  #speed = 1;
  #lastScan = 0;
  #measuredWall = 0;
  #measuredBench = 0;

  constructor(bench: Bench) {
    this.#bench = bench;
    this.#origin = performance.now() * 1000 - bench.time;
  }

  /** Simulated time per wall time over about the last second; 1 is real time. */
  get speed(): number {
    return this.#speed;
  }

  start(): void {
    this.#measuredWall = performance.now() * 1000;
    this.#measuredBench = this.#bench.time;
    this.#next();
  }

  stop(): void {
    if (this.#timer) clearTimeout(this.#timer);
  }

  /**
   * After scans have moved simulated time ahead: waits for the wall, so that a second on the board is a second at the
   * desk.
   */
  async catchUp(): Promise<void> {
    this.#lastScan = performance.now();
    const ahead = (this.#bench.time - this.#wall()) / 1000;
    if (ahead > 1) await new Promise((resolve) => setTimeout(resolve, ahead));
    else if (ahead < -MOST_BEHIND_MICROSECONDS / 1000) this.#origin = performance.now() * 1000 - this.#bench.time;
  }

  #next(): void {
    this.#timer = setTimeout(
      () => {
        // A fault of one turn is told, and time goes on after it: the pod has other things to answer for.
        try {
          this.#turn();
        } catch (error) {
          console.error('A turn of the simulation failed.', error);
          this.#origin = performance.now() * 1000 - this.#bench.time;
        }
        this.#next();
      },
      this.#bench.resting ? REST_MILLISECONDS : TURN_MILLISECONDS,
    );
  }

  #wall(): number {
    return performance.now() * 1000 - this.#origin;
  }

  #turn(): void {
    const now = performance.now();
    const stopAt =
      now + (now - this.#lastScan < QUIET_AFTER_MILLISECONDS ? POLITE_MILLISECONDS : TURN_MILLISECONDS * BUSY_SHARE);
    for (
      let behind = this.#wall() - this.#bench.time;
      behind >= LEAST_MICROSECONDS && performance.now() < stopAt;
      behind = this.#wall() - this.#bench.time
    )
      this.#bench.advance(this.#bench.resting ? behind : Math.min(behind, SLICE_MICROSECONDS));
    if (this.#wall() - this.#bench.time > MOST_BEHIND_MICROSECONDS)
      this.#origin = performance.now() * 1000 - this.#bench.time;
    this.#measure();
  }

  #measure(): void {
    const wall = performance.now() * 1000;
    const span = wall - this.#measuredWall;
    if (span < 1_000_000) return;
    this.#speed = Math.min(1, (this.#bench.time - this.#measuredBench) / span);
    this.#measuredWall = wall;
    this.#measuredBench = this.#bench.time;
  }
}
