import type { BenchFile } from './bench-file.ts';
import { LevelConverter } from './converter.ts';
import { type Motors, type Surge, Water } from './water.ts';

interface Pads {
  padDrive(pin: string): boolean | null;
}

/** Half the spread of a reading, in centimetres. */
const NOISE = 0.5;

const MOTOR_MICROSECONDS = 200;

const isHigh = (pads: Pads | null, pin: string): boolean => pads?.padDrive(pin) === true;

/** What a person at the lock sees. */
export interface LockView {
  readonly chamber: number;
  readonly pond: number;
  readonly motors: Motors;
  readonly surge: Surge | null;
}

/** The canal lock that the board controls: its water, its motors, its two level sensors. */
export class Lock {
  readonly #file: NonNullable<BenchFile['board']['water']>;
  readonly #water: Water;
  readonly #converter: LevelConverter;
  #time = 0;
  #seed = 0x1a2b3c4d;
  #next = 0;
  #nextMotors = 0;
  #motors: Motors = { sluiceUpper: false, sluiceLower: false, gateUpper: false, gateLower: false, wide: false };

  constructor(file: NonNullable<BenchFile['board']['water']>) {
    this.#file = file;
    this.#water = new Water(file.pondCentimetres);
    this.#converter = new LevelConverter((channel) => (channel === 0 ? this.#water.sensed(this.#time) : this.#water.pond) + NOISE * this.#noise());
  }

  /** When it has to look at the pads again, in microseconds. */
  get nextLook(): number {
    return this.#next;
  }

  get view(): LockView {
    return { chamber: this.#water.chamber, pond: this.#water.pond, motors: this.#motors, surge: this.#water.surge };
  }

  /** The pin of the FPGA that the converter drives, and what it drives there. */
  external(pin: string): boolean | null {
    return pin === this.#file.converter.out ? this.#converter.out : null;
  }

  /** Looks at the pads; `set` takes what changes on the FPGA's input. Without power nothing moves but water. */
  look(pads: Pads | null, now: number, set: (pin: string, level: boolean) => void): void {
    this.#time = now;
    const { converter } = this.#file;
    // In the middle of a transfer nothing else is looked at: motors and water are slow.
    if (now >= this.#nextMotors) this.#lookAtMotors(pads, now);
    const before = this.#converter.out;
    this.#converter.look({ clock: isHigh(pads, converter.clock), select: pads?.padDrive(converter.select) !== false, in: isHigh(pads, converter.in) });
    const { out } = this.#converter;
    if (out !== null && out !== before) set(converter.out, out);
    this.#next = now + this.#converter.patience;
  }

  #lookAtMotors(pads: Pads | null, now: number): void {
    const { motors } = this.#file;
    this.#nextMotors = now + MOTOR_MICROSECONDS;
    this.#motors = { sluiceUpper: isHigh(pads, motors.sluiceUpper), sluiceLower: isHigh(pads, motors.sluiceLower), gateUpper: isHigh(pads, motors.gateUpper), gateLower: isHigh(pads, motors.gateLower), wide: isHigh(pads, motors.wide) };
    this.#water.advance(now, this.#motors);
  }

  /** xorshift from -1 to 1, so that a bench behaves the same every time. */
  #noise(): number {
    this.#seed ^= this.#seed << 13;
    this.#seed ^= this.#seed >>> 17;
    this.#seed ^= this.#seed << 5;
    return this.#seed / 2 ** 31;
  }
}
