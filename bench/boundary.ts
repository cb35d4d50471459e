import { getBit, packedLength, setBit } from '../core/bits/index.ts';
import { caseDrawing } from '../core/families/cases/index.ts';
import { type DataRegister, ShiftRegister, TapDevice } from './tap.ts';

/** Opcodes of a family's boundary-scan instructions. */
interface BoundaryOpcodes {
  readonly EXTEST: number;
  readonly SAMPLE: number;
  readonly HIGHZ: number;
  readonly CLAMP?: number;
}

/** What the TAP of a device has of its own. */
interface Identity {
  readonly irLength: number;
  readonly idcode: number;
  readonly irCapture: number;
}

/** Three cells for each user pin, the first pin's nearest TDO; a control cell of 1 turns the driver off. */
const CELLS_A_PIN = 3;
const INPUT_CELL = 0;
const OUTPUT_CELL = 1;
const CONTROL_CELL = 2;

/** What the pins of a device meet on the board. */
export interface PadWorld {
  /** Level on a pad, seen from outside. */
  readonly level: (pin: string) => boolean;
  /** The device drives its pads otherwise than before. */
  readonly changed: () => void;
}

/**
 * A device with a boundary register around its pins, laid out as docs/silicon.md, section 9 says. The core behind the
 * cells is the subclass's.
 *
 * @source IEEE 1149.1: SAMPLE captures without disturbing, EXTEST drives pins from the update latches, HIGHZ drives
 * none
 */
export abstract class BoundaryDevice extends TapDevice {
  readonly #pins: readonly string[];
  readonly #place = new Map<string, number>();
  readonly #opcodes: BoundaryOpcodes;
  readonly #world: PadWorld;
  readonly #register: DataRegister;
  #latches: Uint8Array;
  #mode: 'system' | 'latches' | 'off' = 'system';

  constructor(
    { irLength, idcode, irCapture }: Identity,
    packageName: string,
    opcodes: BoundaryOpcodes,
    world: PadWorld,
  ) {
    super(irLength, idcode, irCapture);
    this.#pins = caseDrawing(packageName).pins.flatMap(({ name, kind }) => (kind === 'io' ? [name] : []));
    for (const [i, pin] of this.#pins.entries()) this.#place.set(pin, i * CELLS_A_PIN);
    this.#opcodes = opcodes;
    this.#world = world;
    const length = this.#pins.length * CELLS_A_PIN;
    this.#latches = new Uint8Array(packedLength(length));
    this.#register = new ShiftRegister(
      length,
      () => this.#capture(),
      (bits) => this.#update(bits),
    );
  }

  /** What the core puts on a pin; null when it leaves it alone. */
  protected abstract systemDrive(pin: string): boolean | null;

  /** What the device puts on a pad; null when nothing. */
  padDrive(pin: string): boolean | null {
    if (this.missing || this.#mode === 'off') return null;
    if (this.#mode === 'system') return this.systemDrive(pin);
    const at = this.#place.get(pin);
    if (at === undefined) return this.systemDrive(pin);
    return getBit(this.#latches, at + CONTROL_CELL) ? null : getBit(this.#latches, at + OUTPUT_CELL) === 1;
  }

  protected override registerOf(opcode: number): DataRegister | null {
    return opcode === this.#opcodes.EXTEST || opcode === this.#opcodes.SAMPLE ? this.#register : null;
  }

  protected override instructionChanged(opcode: number | null): void {
    const mode =
      opcode === null
        ? 'system'
        : opcode === this.#opcodes.EXTEST || opcode === this.#opcodes.CLAMP
          ? 'latches'
          : opcode === this.#opcodes.HIGHZ
            ? 'off'
            : 'system';
    if (mode === this.#mode) return;
    this.#mode = mode;
    this.#world.changed();
  }

  #capture(): Uint8Array {
    const bits = new Uint8Array(packedLength(this.#pins.length * CELLS_A_PIN));
    for (const [i, pin] of this.#pins.entries()) {
      const at = i * CELLS_A_PIN;
      const driven = this.systemDrive(pin);
      if (this.#world.level(pin)) setBit(bits, at + INPUT_CELL, 1);
      if (driven) setBit(bits, at + OUTPUT_CELL, 1);
      if (driven === null) setBit(bits, at + CONTROL_CELL, 1);
    }
    return bits;
  }

  #update(bits: Uint8Array): void {
    this.#latches = bits.slice();
    if (this.#mode === 'latches') this.#world.changed();
  }
}
