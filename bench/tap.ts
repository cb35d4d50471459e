import { copyBits, getBit, packedLength } from '../core/bits/index.ts';

/** A register between TDI and TDO. Vectors are packed, first bit first; `shift` returns as many bits as it takes. */
export interface DataRegister {
  capture(): void;
  shift(tdi: Uint8Array, count: number): Uint8Array;
  update(): void;
}

/** A register of fixed length; many bits move at a time. */
export class ShiftRegister implements DataRegister {
  readonly length: number;
  bits: Uint8Array;
  readonly #onCapture: () => Uint8Array;
  readonly #onUpdate: (bits: Uint8Array) => void;

  constructor(length: number, onCapture: () => Uint8Array, onUpdate: (bits: Uint8Array) => void = () => {}) {
    this.length = length;
    this.bits = new Uint8Array(packedLength(length));
    this.#onCapture = onCapture;
    this.#onUpdate = onUpdate;
  }

  capture(): void {
    this.bits = this.#onCapture();
  }

  shift(tdi: Uint8Array, count: number): Uint8Array {
    const both = new Uint8Array(packedLength(this.length + count));
    copyBits(this.bits, 0, both, 0, this.length);
    copyBits(tdi, 0, both, this.length, count);
    const out = new Uint8Array(packedLength(count));
    copyBits(both, 0, out, 0, count);
    this.bits = new Uint8Array(packedLength(this.length));
    copyBits(both, count, this.bits, 0, this.length);
    return out;
  }

  update(): void {
    this.#onUpdate(this.bits);
  }
}

export const numberBits = (value: number, length: number): Uint8Array => {
  const bytes = new Uint8Array(packedLength(length));
  for (let i = 0; i < bytes.length; i++) bytes[i] = Math.floor(value / 256 ** i) & 0xff;
  return bytes;
};

export const bitsNumber = (bits: Uint8Array, length: number): number => {
  let value = 0;
  for (let i = length - 1; i >= 0; i--) value = value * 2 + getBit(bits, i);
  return value;
};

/** What a fabric sees of the TAP on one rising edge of TCK. */
export interface TckEdge {
  readonly capture: boolean;
  readonly shift: boolean;
  readonly update: boolean;
  readonly tdi: number;
}

/**
 * One device on the chain. Owns its instruction; the chain owns the TAP state, which all devices share through TMS.
 *
 * @source IEEE 1149.1: all ones and unknown instructions select BYPASS, Test-Logic-Reset selects IDCODE or else BYPASS
 */
export class TapDevice {
  readonly irLength: number;
  /** Its TRST is held low: it answers nothing and drives nothing. */
  held = false;
  /** It is not fitted, and its place on the board is bridged. */
  missing = false;
  readonly #idcode: number | null;
  readonly #bypass = new ShiftRegister(1, () => new Uint8Array(1));
  readonly #identity: ShiftRegister;
  readonly #ir: ShiftRegister;
  #selected: DataRegister;

  constructor(irLength: number, idcode: number | null, irCapture: number | Uint8Array = 0b01) {
    this.irLength = irLength;
    this.#idcode = idcode;
    this.#identity = new ShiftRegister(32, () => numberBits(idcode ?? 0, 32));
    this.#ir = new ShiftRegister(
      irLength,
      () => (typeof irCapture === 'number' ? numberBits(irCapture, irLength) : irCapture),
      (bits) => this.#decode(bitsNumber(bits, irLength)),
    );
    this.#selected = idcode === null ? this.#bypass : this.#identity;
  }

  reset(): void {
    this.#selected = this.#idcode === null ? this.#bypass : this.#identity;
    this.instructionChanged(null);
  }

  captureIr(): void {
    this.#ir.capture();
  }

  shiftIr(tdi: Uint8Array, count: number): Uint8Array {
    return this.#ir.shift(tdi, count);
  }

  updateIr(): void {
    this.#ir.update();
  }

  captureDr(): void {
    this.#selected.capture();
  }

  shiftDr(tdi: Uint8Array, count: number): Uint8Array {
    return this.#selected.shift(tdi, count);
  }

  updateDr(): void {
    this.#selected.update();
  }

  /** Whether every edge of TCK must be given to `edge`, because a fabric is listening. */
  get live(): boolean {
    return false;
  }

  edge(_edge: TckEdge): void {}

  /** Opcode of IDCODE; null for a device whose private instructions are all it has. */
  protected get idcodeOpcode(): number | null {
    return null;
  }

  /** The register of an instruction this kind of device has; null for all others. */
  protected registerOf(_opcode: number): DataRegister | null {
    return null;
  }

  /** Told at every Update-IR, and with null at reset. */
  protected instructionChanged(_opcode: number | null): void {}

  #decode(opcode: number): void {
    this.#selected =
      opcode === this.idcodeOpcode && this.#idcode !== null
        ? this.#identity
        : (this.registerOf(opcode) ?? this.#bypass);
    this.instructionChanged(opcode);
  }
}
