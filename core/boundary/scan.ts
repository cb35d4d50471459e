import { type Bits, bitAt, concatBits, constantBits, setBit, sliceBits } from '../bits/index.ts';
import type { ScanQueue } from '../jtag/index.ts';
import type { BoundaryMap, BoundaryPin } from './map.ts';

/** One place of the chain: a device with a boundary map, or only the length of its instruction register. */
export type ScannedDevice = BoundaryMap | { readonly irLength: number };

/** Level of a pin and whether its own device drives it. */
export interface PinLevel {
  readonly place: number;
  readonly pin: string;
  readonly port: string;
  readonly level: 0 | 1 | null;
  readonly driven: boolean;
}

const hasMap = (device: ScannedDevice): device is BoundaryMap => 'pins' in device;

/**
 * Boundary registers of a whole chain; devices without a map are in BYPASS. SAMPLE looks without disturbing, EXTEST
 * takes the pins over until `release`.
 *
 * @source IEEE 1149.1: PRELOAD fills the update latches before EXTEST lets them drive
 */
export class BoundaryScan {
  readonly #queue: ScanQueue;
  readonly devices: readonly ScannedDevice[];
  /** What the update latches hold, by place. */
  readonly #latches: (Bits | null)[];
  #mode: 'none' | 'sample' | 'extest' = 'none';

  constructor(queue: ScanQueue, devices: readonly ScannedDevice[]) {
    this.#queue = queue;
    this.devices = devices;
    this.#latches = devices.map((device) => (hasMap(device) ? copy(device.safe) : null));
  }

  /** Levels of all pins now. The latches are filled with safe values meanwhile, which drives nothing. */
  async sample(): Promise<readonly PinLevel[]> {
    if (this.#mode !== 'sample') this.#select('sample');
    this.#mode = 'sample';
    return this.#levels(await this.#exchange());
  }

  /** Lets a pin be driven from the next `apply` on, or leaves it alone with null. False when the pin has no driver. */
  set(place: number, pin: string, level: 0 | 1 | null): boolean {
    const device = this.devices[place];
    const latches = this.#latches[place];
    const found = device && hasMap(device) ? device.pins.find((one) => one.pin === pin) : undefined;
    if (!found?.output || !latches) return false;
    const { cell, control } = found.output;
    if (control) setBit(latches.bytes, control.cell, level === null ? 1 - control.on : control.on);
    if (level !== null) setBit(latches.bytes, cell, level);
    return true;
  }

  /**
   * Drives what was set and returns what all pins were before it took effect. Enters EXTEST through PRELOAD the first
   * time.
   */
  async apply(): Promise<readonly PinLevel[]> {
    if (this.#mode !== 'extest') {
      this.#select('sample');
      this.#queue.dr(this.#all());
      this.#select('extest');
      this.#mode = 'extest';
    }
    return this.#levels(await this.#exchange());
  }

  /** Gives all pins back to the devices. */
  async release(): Promise<void> {
    this.#queue.reset();
    await this.#queue.flush();
    this.#mode = 'none';
  }

  #select(what: 'sample' | 'extest'): void {
    this.#queue.ir(
      concatBits(...this.devices.map((device) => (hasMap(device) ? device[what] : constantBits(device.irLength, 1)))),
    );
  }

  #all(): Bits {
    return concatBits(...this.#latches.map((latches) => latches ?? constantBits(1, 0)));
  }

  #exchange(): Promise<Bits> {
    return this.#queue.exchangeDr(this.#all());
  }

  #levels(answer: Bits): PinLevel[] {
    let at = 0;
    return this.devices.flatMap((device, place) => {
      const length = hasMap(device) ? device.length : 1;
      const own = sliceBits(answer, at, length);
      at += length;
      return hasMap(device)
        ? device.pins.map((pin) => ({
            place,
            pin: pin.pin,
            port: pin.port,
            level: pin.input === null ? null : (bitAt(own, pin.input) as 0 | 1),
            driven: isDriven(pin, own),
          }))
        : [];
    });
  }
}

const copy = (bits: Bits): Bits => ({ length: bits.length, bytes: bits.bytes.slice() });

const isDriven = ({ output }: BoundaryPin, cells: Bits): boolean =>
  output !== null && (output.control === null || bitAt(cells, output.control.cell) === output.control.on);
