import type { BenchFile } from './bench-file.ts';
import type { Pads } from './board.ts';
import { CharacterDisplay } from './character-display.ts';
import type { Followed } from './corvane/index.ts';
import { Keyboard } from './keyboard.ts';
import { Sensor } from './sensor.ts';
import { SerialPort, type SetPin } from './serial-port.ts';

const NEVER = Number.POSITIVE_INFINITY;

/** Parts of a board that talk: each follows edges of outputs, or moves inputs, at times of its own. */
export class Wires {
  readonly serial: SerialPort | null;
  readonly #displays: readonly CharacterDisplay[];
  readonly #keyboards: readonly Keyboard[];
  readonly #sensors: readonly Sensor[];
  /** Those that follow outputs, in the order of `followed`. */
  readonly #ears: readonly { readonly followed: Followed; moved(at: number, levels: number): void }[];

  constructor({ serial, displays, keyboards, sensors }: BenchFile['board'], now: () => number) {
    this.serial = serial ? new SerialPort(serial, now) : null;
    this.#displays = displays.map((wiring) => new CharacterDisplay(wiring));
    this.#keyboards = keyboards.map((wiring) => new Keyboard(wiring, now));
    this.#sensors = sensors.map((wiring) => new Sensor(wiring));
    this.#ears = [...(this.serial ? [this.serial] : []), ...this.#displays];
  }

  get followed(): readonly Followed[] {
    return this.#ears.map(({ followed }) => followed);
  }

  moved(part: number, at: number, levels: number): void {
    this.#ears[part]?.moved(at, levels);
  }

  /** Nothing drives the outputs any more. */
  released(now: number): void {
    this.serial?.released(now);
  }

  goDark(): void {
    for (const display of this.#displays) display.goDark();
  }

  /** When one of them has to look at the time again, in microseconds. */
  get nextLook(): number {
    let next = this.serial?.nextLook ?? NEVER;
    for (const keyboard of this.#keyboards) next = Math.min(next, keyboard.nextLook);
    for (const sensor of this.#sensors) next = Math.min(next, sensor.nextLook);
    return next;
  }

  look(pads: Pads | null, now: number, set: SetPin): void {
    this.serial?.look(now, set);
    for (const keyboard of this.#keyboards) if (keyboard.nextLook <= now) keyboard.look(now, set);
    for (const sensor of this.#sensors) if (sensor.nextLook <= now) sensor.look(pads, now, set);
  }

  /** What they put on a pin of the FPGA; null when nothing. */
  external(pin: string): boolean | null {
    const level = this.serial?.external(pin) ?? null;
    if (level !== null) return level;
    for (const part of [...this.#keyboards, ...this.#sensors]) {
      const own = part.external(pin);
      if (own !== null) return own;
    }
    return null;
  }

  /** Gives a design that has just begun the levels of its inputs. */
  present(set: SetPin): void {
    const pins = [this.serial, ...this.#keyboards, ...this.#sensors].flatMap((part) => part?.pins ?? []);
    for (const pin of pins) set(pin, this.external(pin) ?? true);
  }

  /** A key of a keyboard, as `K0/Enter`; false where there is none such. */
  press(name: string, isDown: boolean): boolean {
    const [keyboard, ...key] = name.split('/');
    return this.#keyboards.find((one) => one.name === keyboard)?.press(key.join('/'), isDown) ?? false;
  }

  /** Sets what a sensor reads; false where there is none of that name. */
  turn(name: string, value: number): boolean {
    const sensor = this.#sensors.find(({ view }) => view.name === name);
    sensor?.turn(value);
    return sensor !== undefined;
  }

  get view() {
    return {
      displays: this.#displays.map(({ view }) => view),
      keyboards: this.#keyboards.map(({ view }) => view),
      sensors: this.#sensors.map(({ view }) => view),
    };
  }
}
