import { getBit, packedLength } from '../core/bits/index.ts';
import { type CableOp, nextState, type TapState } from '../core/jtag/index.ts';
import { item } from '../core/lists.ts';
import type { TapDevice } from './tap.ts';

const SHIFT_CHUNK = 1 << 13;

/** What a chain needs of the world around it. */
interface ChainWorld {
  readonly powered: () => boolean;
  /** Lets that many TCK periods pass. */
  readonly pass: (cycles: number) => void;
  readonly wait: (microseconds: number) => void;
}

/** Devices in a row between TDI and TDO, one TAP state for all. Index 0 is nearest TDO. */
export class Chain {
  readonly devices: readonly TapDevice[];
  readonly #world: ChainWorld;
  #state: TapState = 'Test-Logic-Reset';
  /** TRST is asserted. */
  #held = false;

  constructor(devices: readonly TapDevice[], world: ChainWorld) {
    this.devices = devices;
    this.#world = world;
  }

  get state(): TapState {
    return this.#state;
  }

  powerUp(): void {
    this.#state = 'Test-Logic-Reset';
    for (const device of this.devices) device.reset();
  }

  /** Carries out one cable operation; returns TDO for a capturing shift. Without power TDO floats high. */
  run(op: CableOp): Uint8Array | null {
    if (!this.#world.powered()) return this.#dark(op);
    switch (op.kind) {
      case 'tms':
        for (let i = 0; i < op.count; i++) this.#edge(getBit(op.tms, i), 1);
        return null;
      case 'clock':
        return this.#clock(op.count);
      case 'wait':
        this.#world.wait(op.microseconds);
        return null;
      case 'trst':
        this.#held = op.asserted;
        if (op.asserted) this.#go('Test-Logic-Reset');
        return null;
      case 'shift': {
        const out = this.#shift(op.tdi, op.count, op.exit);
        return op.capture ? out : null;
      }
    }
  }

  #dark(op: CableOp): Uint8Array | null {
    if (op.kind === 'wait') this.#world.wait(op.microseconds);
    else if (op.kind !== 'trst') this.#world.pass(op.count);
    return op.kind === 'shift' && op.capture ? new Uint8Array(packedLength(op.count)).fill(0xff) : null;
  }

  get #awake(): readonly TapDevice[] {
    return this.devices.filter((device) => !device.held && !device.missing);
  }

  get #live(): boolean {
    return this.devices.some((device) => device.live);
  }

  #clock(count: number): null {
    if (this.#live || nextState(this.#state, 0) !== this.#state) for (let i = 0; i < count; i++) this.#edge(0, 1);
    else this.#world.pass(count);
    return null;
  }

  /**
   * One rising edge of TCK: the present state acts, then TMS chooses the next. Updates happen on the falling edge
   * after.
   */
  #edge(tms: number, tdi: number): void {
    if (this.#state === 'Shift-DR' || this.#state === 'Shift-IR') {
      this.#shiftBits(Uint8Array.of(tdi), 1);
    } else {
      this.#world.pass(1);
      this.#tellFabric(0);
      if (this.#state === 'Capture-DR') for (const device of this.#awake) device.captureDr();
      if (this.#state === 'Capture-IR') for (const device of this.#awake) device.captureIr();
    }
    this.#go(nextState(this.#state, tms));
  }

  #go(wanted: TapState): void {
    const state = this.#held ? 'Test-Logic-Reset' : wanted;
    this.#state = state;
    if (state === 'Test-Logic-Reset') for (const device of this.devices) device.reset();
    if (state === 'Update-DR') for (const device of this.#awake) device.updateDr();
    if (state === 'Update-IR') for (const device of this.#awake) device.updateIr();
  }

  #tellFabric(tdi: number): void {
    for (const device of this.devices)
      if (device.live)
        device.edge({ capture: this.#state === 'Capture-DR', shift: false, update: this.#state === 'Update-DR', tdi });
  }

  #shift(tdi: Uint8Array, count: number, exit: boolean): Uint8Array {
    if (this.#state !== 'Shift-DR' && this.#state !== 'Shift-IR') return this.#idleShift(count, exit);
    const out = new Uint8Array(packedLength(count));
    for (let at = 0; at < count; at += SHIFT_CHUNK) {
      const length = Math.min(SHIFT_CHUNK, count - at);
      out.set(this.#shiftBits(tdi.subarray(at >>> 3, (at >>> 3) + packedLength(length)), length), at >>> 3);
    }
    if (exit) this.#go(nextState(this.#state, 1));
    return out;
  }

  /** A shift while TRST holds the TAPs: TMS moves nothing and TDO floats high. */
  #idleShift(count: number, exit: boolean): Uint8Array {
    this.#world.pass(count);
    for (let i = 0; i < count; i++) this.#go(nextState(this.#state, exit && i === count - 1 ? 1 : 0));
    return new Uint8Array(packedLength(count)).fill(0xff);
  }

  /** Bits enter at the device nearest TDI and what leaves one enters the next. */
  #shiftBits(tdi: Uint8Array, count: number): Uint8Array {
    const ir = this.#state === 'Shift-IR';
    // A listening fabric lets time pass itself, bit by bit, while it shifts.
    if (ir || !this.#live) this.#world.pass(count);
    let bits = tdi;
    for (let i = this.devices.length - 1; i >= 0; i--) {
      const device = item(this.devices, i);
      if (device.missing) continue;
      // A TAP held in reset does not drive its TDO; the next TDI is pulled up.
      if (device.held) {
        bits = new Uint8Array(packedLength(count)).fill(0xff);
        continue;
      }
      bits = ir ? device.shiftIr(bits, count) : device.shiftDr(bits, count);
    }
    return bits;
  }
}
