import type { BenchFile } from './bench-file.ts';
import type { Pads } from './board.ts';
import { LevelConverter } from './converter.ts';
import type { SetPin } from './serial-port.ts';

type Wiring = BenchFile['board']['sensors'][number];

/** A reading that hands set, behind a converter on SPI: mode 0, sixteen bits, the value in the last twelve. */
export class Sensor {
  readonly #wiring: Wiring;
  readonly #converter: LevelConverter;
  #value: number;
  #next = 0;

  constructor(wiring: Wiring) {
    this.#wiring = wiring;
    this.#value = wiring.value;
    this.#converter = new LevelConverter(() => this.#value);
  }

  get view() {
    const { name, label, low, high, unit } = this.#wiring;
    return { name, label: label ?? name, value: this.#value, low, high, unit };
  }

  get nextLook(): number {
    return this.#next;
  }

  get pins(): readonly string[] {
    return [this.#wiring.out];
  }

  external(pin: string): boolean | null {
    return pin === this.#wiring.out ? this.#converter.out : null;
  }

  /** Within its limits. */
  turn(value: number): void {
    this.#value = Math.min(this.#wiring.high, Math.max(this.#wiring.low, Math.round(value)));
  }

  look(pads: Pads | null, now: number, set: SetPin): void {
    const { clock, select, out } = this.#wiring;
    const before = this.#converter.out;
    this.#converter.look({
      clock: pads?.padDrive(clock) === true,
      select: pads?.padDrive(select) !== false,
      in: false,
    });
    const after = this.#converter.out;
    if (after !== null && after !== before) set(out, after);
    this.#next = now + this.#converter.patience;
  }
}
