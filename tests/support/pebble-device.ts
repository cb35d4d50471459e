// The device's half of the family for tests: a TAP, a stream that it takes, and a fabric that runs what the stream
// holds.
import { PAD_LEVELS } from '../../bench/corvane/pads.ts';
import { Fabric } from '../../bench/corvane/fabric.ts';
import { Chain } from '../../bench/chain.ts';
import { type DataRegister, numberBits, ShiftRegister, TapDevice, type TckEdge } from '../../bench/tap.ts';
import { copyBits, getBit, packedLength, setBit } from '../../core/bits/index.ts';
import type { Design } from '../../core/families/index.ts';
import type { Cable, CableOp, CableState } from '../../core/jtag/index.ts';
import { jsonIntegers } from '../../core/json-integers.ts';
import { PEBBLE, PEBBLE_OPCODE, PEBBLE_STATUS } from './pebble.ts';

const LEAD_BYTES = 4;
const CLOCK_PIN = 'X0';
const CLOCK_HZ = 1e6;

/** A Pebble in a chain. */
class PebbleDevice extends TapDevice {
  readonly #now: () => number;
  readonly #pass: () => void;
  #taken = new Uint8Array(0);
  #takenBits = 0;
  #flags = 0;
  #print = new Uint8Array(16);
  #user = false;
  fabric: Fabric | null = null;

  constructor(now: () => number, pass: () => void) {
    super(PEBBLE.irLength, PEBBLE.idcode, 1);
    this.#now = now;
    this.#pass = pass;
  }

  protected override get idcodeOpcode(): number {
    return PEBBLE_OPCODE.IDCODE;
  }

  override get live(): boolean {
    return this.#user && this.fabric !== null;
  }

  override edge(edge: TckEdge): void {
    this.fabric?.linkEdge(edge);
  }

  protected override registerOf(opcode: number): DataRegister | null {
    if (opcode === PEBBLE_OPCODE.STATUS) return new ShiftRegister(4, () => numberBits(this.#flags, 4));
    if (opcode === PEBBLE_OPCODE.PRINT) return new ShiftRegister(128, () => this.#print.slice());
    if (opcode === PEBBLE_OPCODE.CONFIG) return this.#config;
    return opcode === PEBBLE_OPCODE.USER && this.fabric ? this.#link : null;
  }

  protected override instructionChanged(opcode: number | null): void {
    this.#user = opcode === PEBBLE_OPCODE.USER;
    if (opcode === PEBBLE_OPCODE.RUN) this.#run();
  }

  readonly #config: DataRegister = {
    capture: () => {
      [this.#taken, this.#takenBits] = [new Uint8Array(PEBBLE.roomBytes + LEAD_BYTES), 0];
      [this.fabric, this.#flags, this.#print] = [null, 1 << PEBBLE_STATUS.BEGUN, new Uint8Array(16)];
    },
    shift: (tdi, count) => {
      const room = this.#taken.length * 8 - this.#takenBits;
      copyBits(tdi, 0, this.#taken, this.#takenBits, Math.min(count, room));
      this.#takenBits += Math.min(count, room);
      return new Uint8Array(packedLength(count));
    },
    update: () => {},
  };

  readonly #link: DataRegister = {
    capture: () => {},
    shift: (tdi, count) => {
      const out = new Uint8Array(packedLength(count));
      for (let i = 0; i < count; i++) {
        this.#pass();
        const edge = { capture: false, shift: true, update: false, tdi: getBit(tdi, i) };
        if (this.fabric?.linkEdge(edge)) setBit(out, i, 1);
      }
      return out;
    },
    update: () => {},
  };

  /** The stream from its mark on: zeros of devices in BYPASS come before it. */
  #aligned(): Uint8Array {
    const stream = new Uint8Array(PEBBLE.roomBytes);
    for (let from = 0; from < LEAD_BYTES * 8; from++) {
      copyBits(this.#taken, from, stream, 0, stream.length * 8);
      if (stream[0] === 0x50 && stream[1] === 0x42) return stream;
    }
    return stream;
  }

  #run(): void {
    const stream = this.#aligned();
    const view = new DataView(stream.buffer);
    const end = 26 + view.getUint32(22, true);
    if (view.getUint32(2, true) !== PEBBLE.idcode) this.#flags |= 1 << PEBBLE_STATUS.WRONG_PART;
    let sum = 0;
    for (const byte of stream.subarray(0, end)) sum = (sum + byte) >>> 0;
    if (end + 4 > PEBBLE.roomBytes || view.getUint32(end, true) !== sum) this.#flags |= 1 << PEBBLE_STATUS.WRONG_SUM;
    if (this.#flags !== 1 << PEBBLE_STATUS.BEGUN) return;
    const text = new TextDecoder().decode(stream.subarray(26, end));
    const { netlist, pins } = jsonIntegers.deserialize(JSON.parse(text)) as Design;
    const levels = PAD_LEVELS[0] as (typeof PAD_LEVELS)[number];
    const pads = pins.map(({ port, bit, pin, pull }) => ({ port, bit, pin, pull, levels }));
    this.fabric = new Fabric(
      { netlist, pads, generators: [] },
      new Map([[CLOCK_PIN, CLOCK_HZ]]),
      () => 3.3,
      this.#now(),
    );
    this.#print = stream.slice(6, 22);
    this.#flags |= 1 << PEBBLE_STATUS.RUNS;
  }
}

/** A cable to a board with a Pebble and devices that nobody knows around it. */
export class PebbleCable implements Cable {
  readonly tckHz = 1e6;
  #time = 0;
  readonly device = new PebbleDevice(
    () => this.#time,
    () => this.#pass(1),
  );
  readonly #chain: Chain;

  constructor(around: { readonly before: readonly TapDevice[]; readonly after: readonly TapDevice[] }) {
    this.#chain = new Chain([...around.before, this.device, ...around.after], {
      powered: () => true,
      pass: (cycles) => this.#pass(cycles),
      wait: (microseconds) => this.#advance(microseconds),
    });
  }

  #pass(cycles: number): void {
    this.#advance((cycles * 1e6) / this.tckHz);
  }

  #advance(microseconds: number): void {
    this.#time += microseconds;
    this.device.fabric?.runUntil(this.#time);
  }

  async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    return ops.flatMap((op) => this.#chain.run(op) ?? []);
  }

  async state(): Promise<CableState> {
    return { attached: true, referenceVolts: 3.3, tckHz: this.tckHz, leastHz: this.tckHz, mostHz: this.tckHz };
  }

  async setFrequency(): Promise<number> {
    return this.tckHz;
  }
}
