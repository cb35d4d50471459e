import type { LockView } from './panel.ts';
import type { BenchFile } from './bench-file.ts';
import type { Pads } from './board.ts';
import { Chance } from './chance.ts';
import { LevelConverter } from './converter.ts';
import { AT_REST, Water } from './water.ts';

/** Half the spread of a reading, in centimetres. */
const NOISE = 0.5;

/** Motors and water are slow: they are looked at this often. */
const MOTOR_MICROSECONDS = 200;

const isHigh = (pads: Pads | null, pin: string): boolean => pads?.padDrive(pin) === true;

/** The canal lock that the board controls: its water, its motors, its two level sensors. */
export class Lock {
  readonly #file: NonNullable<BenchFile['board']['water']>;
  readonly #water: Water;
  readonly #converter: LevelConverter;
  #time = 0;
  readonly #chance = new Chance(0x1a2b3c4d);
  #next = 0;
  #nextMotors = 0;
  #motors = AT_REST;

  constructor(file: NonNullable<BenchFile['board']['water']>) {
    this.#file = file;
    this.#water = new Water(file.pondCentimetres);
    this.#converter = new LevelConverter(
      (channel) =>
        (channel === 0 ? this.#water.sensed(this.#time) : this.#water.pond) + NOISE * (2 * this.#chance.next() - 1),
    );
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
    this.#converter.look({
      clock: isHigh(pads, converter.clock),
      select: pads?.padDrive(converter.select) !== false,
      in: isHigh(pads, converter.in),
    });
    const { out } = this.#converter;
    if (out !== null && out !== before) set(converter.out, out);
    this.#next = now + this.#converter.patience;
  }

  #lookAtMotors(pads: Pads | null, now: number): void {
    const { motors } = this.#file;
    this.#nextMotors = now + MOTOR_MICROSECONDS;
    this.#motors = {
      sluiceUpper: isHigh(pads, motors.sluiceUpper),
      sluiceLower: isHigh(pads, motors.sluiceLower),
      gateUpper: isHigh(pads, motors.gateUpper),
      gateLower: isHigh(pads, motors.gateLower),
      wide: isHigh(pads, motors.wide),
    };
    this.#water.advance(now, this.#motors);
  }
}
