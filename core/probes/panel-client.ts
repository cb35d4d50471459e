import { own } from '../lists.ts';
import { bigIntOf, type Bits, sliceBits } from '../bits/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { HubClient } from './hub-client.ts';
import type { PanelMap } from './map.ts';

const REGISTER = { homes: 3, lever: 8, enable: 9, count: 10, control: 11 } as const;
const SET = 1n;
const TAKE = 2n;
const PULSE = 4n;
const TAKEN_HOME = 1n;
const SET_HOME = 2n;
const POLLS = 20;
const POLL_MICROSECONDS = 100;

/** Bits that rose and that fell, and at how many edges of the panel's clock the gauge was another one, up to 255. */
interface GaugeActivity {
  readonly rose: bigint;
  readonly fell: bigint;
  readonly changes: number;
}

/** Bits of the count of each gauge's changes. */
const COUNT_BITS = 8;

/** Values of one coherent look. A lever that overrides a driver says whether it does so now. */
export interface PanelReading {
  readonly gauges: Readonly<Record<string, bigint>>;
  readonly levers: Readonly<Record<string, { readonly value: bigint; readonly released: boolean }>>;
  /** What became of each gauge since the look before; where the panel was built to tell. */
  readonly activity?: Readonly<Record<string, GaugeActivity>>;
}

/** As many cycles as a pulse can last. */
export const MOST_PULSE = 0xffff;

/** The host's side of one panel. */
export class PanelClient {
  readonly #hub: HubClient;
  readonly #map: PanelMap;

  constructor(hub: HubClient, map: PanelMap) {
    this.#hub = hub;
    this.#map = map;
  }

  /**
   * Moves levers; those not named stay. `null` releases an overriding lever. With `cycles`, for so many cycles of its
   * clock, 1 to 65,535, after which all levers are as they were.
   */
  async set(changes: Readonly<Record<string, bigint | null>>, cycles: number | null = null): Promise<Result<null>> {
    if (cycles !== null && !this.#map.pulse) return fail(problem('no-pulse', { name: this.#map.name }));
    const now = await this.read();
    if (!now.ok) return now;
    let value = 0n;
    let enable = 0n;
    for (const lever of this.#map.levers) {
      const { value: old = 0n, released = true } = own(now.value.levers, lever.name) ?? {};
      const wanted = Object.hasOwn(changes, lever.name) ? changes[lever.name] : undefined;
      value |= BigInt.asUintN(lever.width, typeof wanted === 'bigint' ? wanted : old) << BigInt(lever.lo);
      const on = wanted === undefined ? !released : wanted !== null;
      if (lever.enable !== null && on) enable |= 1n << BigInt(lever.enable);
    }
    this.#put(value, enable, cycles);
    return this.#arrived(SET_HOME);
  }

  #put(value: bigint, enable: bigint, cycles: number | null = null): void {
    const words = (bits: bigint, count: number) =>
      Array.from({ length: Math.max(1, Math.ceil(count / 32)) }, (_, i) => (bits >> BigInt(32 * i)) & 0xffffffffn);
    this.#hub.write(this.#map.core, REGISTER.lever, words(value, this.#map.leverBits));
    this.#hub.write(this.#map.core, REGISTER.enable, words(enable, this.#map.enableBits));
    if (cycles !== null) this.#hub.write(this.#map.core, REGISTER.count, [BigInt(cycles)]);
    this.#hub.write(this.#map.core, REGISTER.control, [cycles === null ? SET : PULSE]);
  }

  /** Queues that all levers take these values at once; those without one are released, or 0 where nothing else drives. */
  put(values: ReadonlyMap<string, bigint>): void {
    let [value, enable] = [0n, 0n];
    for (const lever of this.#map.levers) {
      const wanted = values.get(lever.name);
      if (wanted === undefined) continue;
      value |= BigInt.asUintN(lever.width, wanted) << BigInt(lever.lo);
      if (lever.enable !== null) enable |= 1n << BigInt(lever.enable);
    }
    this.#put(value, enable);
    this.#hub.cross();
  }

  /**
   * The same as `read`, carried out by a later flush; null where the clock had not answered by then, to this or to what
   * was put before.
   */
  async readLater(): Promise<PanelReading | null> {
    this.#hub.write(this.#map.core, REGISTER.control, [TAKE]);
    this.#hub.cross();
    const homes = this.#hub.readLater(this.#map.core, REGISTER.homes, 1);
    const bits = this.#hub.streamLater(this.#map.core, this.#bitsTold);
    const [[home = 0n], told] = await Promise.all([homes, bits]);
    return (home & (TAKEN_HOME | SET_HOME)) === (TAKEN_HOME | SET_HOME) ? this.#reading(told) : null;
  }

  /**
   * Takes all gauges on one edge of the panel's clock and reads them, with the levers as they stand in the hardware.
   */
  async read(): Promise<Result<PanelReading>> {
    this.#hub.write(this.#map.core, REGISTER.control, [TAKE]);
    const arrived = await this.#arrived(TAKEN_HOME);
    if (!arrived.ok) return arrived;
    return ok(this.#reading(await this.#hub.stream(this.#map.core, this.#bitsTold)));
  }

  get #bitsTold(): number {
    const { gaugeBits, leverBits, enableBits, activity, gauges } = this.#map;
    const levels = [gaugeBits, leverBits, enableBits].reduce((sum, bits) => sum + Math.max(1, bits), 0);
    return levels + (activity ? 2 * Math.max(1, gaugeBits) + COUNT_BITS * Math.max(1, gauges.length) : 0);
  }

  #reading(bits: Bits): PanelReading {
    const { levers, gauges } = this.#map;
    const gaugeBits = Math.max(1, this.#map.gaugeBits);
    const leverBits = Math.max(1, this.#map.leverBits);
    const at = (lo: number, width: number) => bigIntOf(sliceBits(bits, lo, width));
    const behind = gaugeBits + leverBits + Math.max(1, this.#map.enableBits);
    const activity = () =>
      Object.fromEntries(
        gauges.map(({ name, lo, width }, i) => [
          name,
          {
            rose: at(behind + lo, width),
            fell: at(behind + gaugeBits + lo, width),
            changes: Number(at(behind + 2 * gaugeBits + COUNT_BITS * i, COUNT_BITS)),
          },
        ]),
      );
    return {
      ...(this.#map.activity ? { activity: activity() } : {}),
      gauges: Object.fromEntries(gauges.map((gauge) => [gauge.name, at(gauge.lo, gauge.width)])),
      levers: Object.fromEntries(
        levers.map((lever) => [
          lever.name,
          {
            value: at(gaugeBits + lever.lo, lever.width),
            released: lever.enable !== null && at(gaugeBits + leverBits + lever.enable, 1) === 0n,
          },
        ]),
      ),
    };
  }

  async #arrived(home: bigint): Promise<Result<null>> {
    for (let poll = 0; poll < POLLS; poll++) {
      this.#hub.cross();
      const [homes = 0n] = await this.#hub.read(this.#map.core, REGISTER.homes, 1);
      if (homes & home) return ok(null);
      this.#hub.queue.wait(POLL_MICROSECONDS);
    }
    if (!(await this.#hub.answers())) return fail(problem('link-lost'));
    return fail(problem('clock-stopped', { name: this.#map.name, clock: this.#map.clock }));
  }
}
