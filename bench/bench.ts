import { SPRIG, SPRIG_INSTRUCTION } from '../core/families/sprig/index.ts';
import type { CableOp, CableState } from '../core/jtag/index.ts';
import type { PanelState } from './panel.ts';
import { crc32, packedLength, setBit, getBit } from '../core/bits/index.ts';
import type { BenchFile } from './bench-file.ts';
import { Board } from './board.ts';
import { Lock } from './lock.ts';
import { BoundaryDevice, type PadWorld } from './boundary.ts';
import { Chain } from './chain.ts';
import { Corvane, type Fabric } from './corvane/index.ts';
import { Marrow } from './marrow/index.ts';
import { asFault, type Fault, FAULTS, type FaultName } from './faults.ts';
import { FLASH_PARTS } from '../core/flash/index.ts';
import { FlashChip } from './flash-chip.ts';
import { type Defect, Nets } from './nets.ts';
import type { SerialPort } from './serial-port.ts';
import { TapDevice } from './tap.ts';
import { Wire } from './wire.ts';
import { Wires } from './wires.ts';

/** Not a divisor of common refresh periods, so that what is multiplexed is seen evenly. */
const SAMPLE_MICROSECONDS = 193;
/** What the simulated pod's clock can do, in hertz. */
const LEAST_HZ = 1000;
const MOST_HZ = 50_000_000;
/** TCK is a whole division of this. */
const BASE_HZ = 100_000_000;
/** While no design runs, the water is looked at this often. */
const REST_MICROSECONDS = 5000;
const LOW_VOLTS = 0.9;
const FAULT_HZ = 6_000_000;
/** Where the bad sector has a bit that reads wrong: inside every image. */
const BAD_ADDRESS = 0x2345;
/** A little into the second image of an update. */
const FAIL_AFTER_BYTES = 90_000;
/** Just beyond what a frame bears. */
const OFF_PERCENT = 6;
const UNIQUE_ID_PARTS = ['LR32'];
/** A scan this long is a configuration stream: it is where a corrupted load shows. */
const STREAM_BITS = 100_000;

/** Contents of the flash chips, by place in the chain: what a board keeps without power. */
export type FlashContents = ReadonlyMap<number, Uint8Array>;

/** Everything on one bench, in simulated time. Time passes only when `advance` or a cable operation lets it. */
export class Bench {
  readonly file: BenchFile;
  readonly #chain: Chain;
  readonly #devices: readonly TapDevice[];
  /** Place of the FPGA that the board's parts hang on; -1 without one. */
  readonly #mainPlace: number;
  readonly #fpgas = new Map<number, Corvane | Marrow>();
  readonly #flash = new Map<number, FlashChip>();
  readonly #board: Board;
  readonly #lock: Lock | null;
  readonly #wires: Wires;
  readonly #nets: Nets;
  readonly #wire: Wire;
  readonly #faults = new Map<FaultName, Fault>();
  #tckHz: number;
  #time = 0;
  #nextSample = 0;
  #powered = false;
  #bootFromFlash = true;
  #supplyFails = false;

  constructor(file: BenchFile, kept: FlashContents = new Map()) {
    this.file = file;
    this.#tckHz = Math.min(MOST_HZ, Math.max(LEAST_HZ, file.tckHz));
    this.#wire = new Wire(file.cableNanoseconds);
    this.#board = new Board(file.board);
    this.#wires = new Wires(file.board, () => this.#time);
    this.#lock = file.board.water ? new Lock(file.board.water) : null;
    this.#mainPlace = file.board.fpga ?? file.chain.findIndex(({ kind }) => kind === 'corvane' || kind === 'marrow');
    const padded = new Map<number, BoundaryDevice>();
    this.#nets = new Nets(file.nets, {
      devices: padded,
      external: (place, pin) =>
        place === this.#mainPlace
          ? (this.#lock?.external(pin) ??
            this.#wires.external(pin) ??
            this.#board.external(pin, this.#faults.has('clock-stopped') ? 0 : this.#time))
          : null,
    });
    const devices = file.chain.map((entry, index): TapDevice => {
      const pads: PadWorld = { level: (pin) => this.#nets.level(index, pin), changed: () => this.#padsChanged() };
      if (entry.kind === 'generic') return new Generic(entry);
      if (entry.kind === 'sprig') {
        const sprig = new Sprig(entry.version ?? 0, pads);
        padded.set(index, sprig);
        return sprig;
      }
      const onBoard = index === this.#mainPlace;
      const world = {
        ...pads,
        now: () => this.#time,
        passTck: () => this.#pass(1),
        oscillators: onBoard ? new Map(file.board.oscillators.map(({ pin, hz }) => [pin, hz])) : new Map(),
        ears: onBoard ? earsOf(this.#wires, () => this.#time) : NO_EARS,
        clocksRun: () => !this.#faults.has('clock-stopped'),
        started: (fabric: Fabric) => {
          if (onBoard) {
            this.#board.present(fabric);
            this.#wires.present((pin, level) => fabric.setPin(pin, level));
          }
          this.#padsChanged();
        },
      };
      const fpga =
        entry.kind === 'marrow'
          ? new Marrow(entry.version, {
              ...world,
              flash: entry.flash
                ? { chip: this.#chipAt(index, entry.flash.part, kept.get(index) ?? null), pins: entry.flash.pins }
                : null,
            })
          : new Corvane(
              { part: entry.part, packageName: entry.package, version: entry.version },
              {
                ...world,
                bootFromFlash: () => this.#bootFromFlash,
                banks: onBoard ? file.board.banks : {},
                flash: entry.flash === undefined ? null : this.#chipAt(index, entry.flash, kept.get(index) ?? null),
              },
            );
      this.#fpgas.set(index, fpga);
      padded.set(index, fpga);
      return fpga;
    });
    this.#chain = new Chain(devices, {
      powered: () => this.#powered,
      pass: (cycles) => this.#pass(cycles),
      wait: (us) => this.advance(us),
    });
    this.#devices = devices;
    for (const fault of file.faults) this.setFault(asFault(fault), true);
    this.setPower(true);
  }

  /** A new chip behind the device at a place. */
  #chipAt(index: number, name: string, kept: Uint8Array | null): FlashChip {
    const uniqueId = UNIQUE_ID_PARTS.includes(name) ? uniqueIdOf(`${this.file.name} ${index}`) : null;
    const chip = new FlashChip(
      name,
      kept,
      () => this.#time,
      uniqueId,
      () => {
        this.#supplyFails = true;
      },
    );
    this.#flash.set(index, chip);
    return chip;
  }

  /** The serial line of the board, with the pod's end of it; null where it has none. */
  get serial(): SerialPort | null {
    return this.#wires.serial;
  }

  /** Simulated microseconds since the bench was set up. */
  get time(): number {
    return this.#time;
  }

  get powered(): boolean {
    return this.#powered;
  }

  get cableState(): CableState {
    const attached = !this.#faults.has('cable-unplugged');
    const volts =
      !attached || !this.#powered ? 0 : this.#faults.has('low-reference') ? LOW_VOLTS : this.file.referenceVolts;
    return { attached, referenceVolts: volts, tckHz: this.#tckHz, leastHz: LEAST_HZ, mostHz: MOST_HZ };
  }

  /** Sets TCK to the nearest frequency at or below that the pod can make: whole divisions of its fastest. */
  setFrequency(hz: number): number {
    this.#tckHz = Math.max(LEAST_HZ, BASE_HZ / Math.max(BASE_HZ / MOST_HZ, Math.ceil(BASE_HZ / hz - 1e-9)));
    return this.#tckHz;
  }

  /** All faults that can be practised, and which are on. */
  get faults(): readonly { readonly name: FaultName; readonly label: string; readonly on: boolean }[] {
    return FAULTS.map(({ name, label }) => ({ name, label, on: this.#faults.has(name) }));
  }

  /** Switches a fault on or off; what it concerns is chosen where it does not say. */
  setFault(fault: Fault, on: boolean): void {
    if (on) this.#faults.set(fault.name, fault);
    else this.#faults.delete(fault.name);
    const last = this.#devices.length - 1;
    for (const [index, device] of this.#devices.entries()) {
      device.missing = this.#concerns('device-missing', index, last);
      device.held = this.#concerns('device-in-reset', index, last);
      if (device.held) device.reset();
    }
    const limit = this.#faults.get('bit-errors');
    this.#wire.delay = limit ? 0.5e9 / (limit.aboveHz ?? FAULT_HZ) : this.file.cableNanoseconds;
    if (fault.name === 'board-unpowered') this.setPower(!on);
    if (fault.name === 'boot-switch-jtag') this.setBootSource(on ? 'jtag' : 'flash');
    const off = this.#faults.get('serial-off-speed');
    if (this.#wires.serial && fault.name === 'serial-off-speed')
      this.#wires.serial.off = off ? (off.percent ?? OFF_PERCENT) : 0;
    for (const chip of this.#flash.values()) chip.faults = this.#flashFaults(chip);
    this.#nets.defects = this.#defects();
    this.#padsChanged();
  }

  #flashFaults(chip: FlashChip): FlashChip['faults'] {
    const other = FLASH_PARTS.find((part) => part.name !== chip.part.name);
    return {
      identity: this.#faults.has('flash-wrong-maker') ? (other?.identity ?? null) : null,
      busyForever: this.#faults.has('flash-busy'),
      badAddress: this.#faults.has('flash-bad-sector') ? BAD_ADDRESS : null,
      isProtected: this.#faults.has('flash-protected'),
      failsAfter: this.#faults.has('power-fails-writing')
        ? (this.#faults.get('power-fails-writing')?.afterBytes ?? FAIL_AFTER_BYTES)
        : null,
    };
  }

  #concerns(name: FaultName, index: number, otherwise: number): boolean {
    const fault = this.#faults.get(name);
    return fault !== undefined && (fault.device ?? otherwise) === index;
  }

  #defects(): Defect[] {
    const [first, second] = this.file.nets;
    const found: Defect[] = [];
    const some = (fault: Fault | undefined, nets: readonly (string | undefined)[]) =>
      fault ? (fault.nets ?? nets.filter((net) => net !== undefined)) : null;
    for (const as of ['and', 'or'] as const) {
      const nets = some(this.#faults.get(`net-short-${as}`), [first?.name, second?.name]);
      if (nets && nets.length > 0) found.push({ kind: 'short', nets, as });
    }
    const open = this.#faults.get('net-open');
    const pin = open?.pin ?? first?.pins.at(-1);
    if (open && pin !== undefined) found.push({ kind: 'open', pin });
    const stuck = this.#faults.get('net-stuck');
    for (const net of some(stuck, [this.file.nets.at(-1)?.name]) ?? [])
      found.push({ kind: 'stuck', net, level: stuck?.level === 1 });
    return found;
  }

  get flashContents(): FlashContents {
    return new Map([...this.#flash].map(([index, chip]) => [index, chip.memory]));
  }

  /** Grows whenever a chip's contents change. */
  get flashChanges(): number {
    return [...this.#flash.values()].reduce((sum, chip) => sum + chip.changes, 0);
  }

  setPower(wanted: boolean): void {
    const on = wanted && !this.#faults.has('board-unpowered');
    if (on === this.#powered) return;
    this.#powered = on;
    for (const chip of this.#flash.values()) chip.powerUp();
    for (const fpga of this.#fpgas.values()) on ? fpga.powerUp() : fpga.powerDown();
    if (on) this.#chain.powerUp();
    else {
      this.#board.goDark();
      this.#wires.goDark();
    }
  }

  /** Where the boot switch of the board stands; looked at when power arrives. */
  setBootSource(source: 'flash' | 'jtag'): void {
    this.#bootFromFlash = source === 'flash';
  }

  /** Pulls the reconfigure wire of the FPGA that the board's parts hang on, as the button beside it does. */
  reconfigure(): void {
    if (this.#powered) this.#main?.reconfigure();
  }

  /** Once: switched on again, the board works. */
  #failSupply(): void {
    this.#supplyFails = false;
    this.#faults.delete('power-fails-writing');
    this.setPower(false);
  }

  operate(name: string, on: boolean): boolean {
    return this.#wires.press(name, on) || this.#board.operate(name, on, this.#main?.fabric ?? null);
  }

  /** Sets what a sensor of the board reads. */
  turn(name: string, value: number): boolean {
    return this.#wires.turn(name, value);
  }

  /** Carries out cable operations; one packed answer for every shift that captures. */
  run(ops: readonly CableOp[]): Uint8Array[] {
    const answers: Uint8Array[] = [];
    const cut = this.#faults.has('cable-unplugged') || this.#faults.has('low-reference');
    for (const op of ops) {
      const answer = cut ? this.#unheard(op) : this.#chain.run(this.#disturbed(op));
      if (answer && op.kind === 'shift') answers.push(this.#heard(answer, op.count));
      if (this.#supplyFails) this.#failSupply();
    }
    return answers;
  }

  /** What is clocked while no level reaches the board. */
  #unheard(op: CableOp): Uint8Array | null {
    if (op.kind === 'wait') this.advance(op.microseconds);
    else if (op.kind !== 'trst') this.#pass(op.count);
    return op.kind === 'shift' && op.capture ? new Uint8Array(packedLength(op.count)).fill(0xff) : null;
  }

  #disturbed(op: CableOp): CableOp {
    if (op.kind !== 'shift' || op.count < STREAM_BITS || !this.#faults.has('load-corrupted')) return op;
    const tdi = op.tdi.slice();
    const at = op.count >> 1;
    setBit(tdi, at, getBit(tdi, at) ^ 1);
    return { ...op, tdi };
  }

  #heard(answer: Uint8Array, count: number): Uint8Array {
    const level = this.#faults.has('tdo-stuck-0') ? 0 : this.#faults.has('tdo-stuck-1') ? 0xff : null;
    return level === null ? this.#wire.sample(answer, count, this.#tckHz) : new Uint8Array(answer.length).fill(level);
  }

  /** A device drives its pads otherwise: what other devices put on nets reaches the design that runs. */
  #padsChanged(): void {
    const main = this.#main;
    if (!main?.fabric) return;
    for (const pin of this.#nets.pinsOf(this.#mainPlace)) {
      if (main.padDrive(pin) !== null) continue;
      const level = this.#nets.driven(this.#mainPlace, pin);
      if (level !== null) main.fabric.setPin(pin, level);
    }
  }

  /** Lets time pass, everything running, the board looked at about five times a millisecond. */
  advance(microseconds: number): void {
    const end = this.#time + microseconds;
    while (this.#time < end && this.#rests) this.#restUntil(end);
    for (;;) {
      const look = this.#lock?.nextLook ?? Number.POSITIVE_INFINITY;
      const next = Math.min(this.#nextSample, look, this.#wires.nextLook);
      if (next > end) break;
      this.#moveTo(Math.max(this.#time, next));
      const pads = this.#powered ? (this.#main ?? null) : null;
      if (next === look) this.#lock?.look(pads, this.#time, this.#setPin);
      if (this.#wires.nextLook <= this.#time) this.#wires.look(pads, this.#time, this.#setPin);
      if (next !== this.#nextSample) continue;
      this.#board.sample(pads, this.#time);
      this.#nextSample += SAMPLE_MICROSECONDS;
    }
    this.#moveTo(end);
  }

  readonly #setPin = (pin: string, level: boolean): void => this.#main?.fabric?.setPin(pin, level);

  /** No design runs anywhere: between scans nothing moves but water and what has been begun. */
  get #rests(): boolean {
    return !this.#powered || [...this.#fpgas.values()].every(({ fabric }) => fabric === null);
  }

  /** Passes time in which no output can change by itself: one look stands for all of them. */
  #restUntil(end: number): void {
    const begun = [...this.#fpgas.values()].map(({ nextEvent }) => nextEvent);
    const until = Math.min(end, this.#lock ? this.#time + REST_MICROSECONDS : end, ...begun);
    const pads = this.#powered ? (this.#main ?? null) : null;
    const looks = Math.max(0, Math.ceil((until - this.#nextSample) / SAMPLE_MICROSECONDS));
    if (looks > 0) this.#board.sample(pads, this.#time, looks);
    this.#nextSample += looks * SAMPLE_MICROSECONDS;
    this.#moveTo(until);
    if (this.#lock && this.#lock.nextLook <= until) this.#lock.look(pads, until, this.#setPin);
    this.#wires.look(pads, until, this.#setPin);
  }

  /** Whether a design runs: only then does time cost the simulation something. */
  get resting(): boolean {
    return this.#rests;
  }

  /** The panel as seen now; lamps averaged over at least `leastSamples` looks. */
  panel(leastSamples = 100): PanelState {
    const done = Object.fromEntries([...this.#fpgas].map(([index, fpga]) => [String(index), fpga.done]));
    const { oscillators } = this.file.board;
    return {
      fpga: this.#mainPlace,
      oscillators: oscillators.map(({ name, pin, hz }) => ({ name, pin, hz })),
      time: this.#time,
      powered: this.#powered,
      bootSource: this.#bootFromFlash ? 'flash' : 'jtag',
      done,
      ...this.#board.look(this.#time, leastSamples),
      ...this.#wires.view,
      ...(this.#lock ? { lock: this.#lock.view } : {}),
    };
  }

  get #main(): Corvane | Marrow | undefined {
    return this.#fpgas.get(this.#mainPlace);
  }

  #pass(cycles: number): void {
    this.advance((cycles * 1e6) / this.#tckHz);
  }

  #moveTo(time: number): void {
    this.#time = time;
    if (this.#powered) for (const fpga of this.#fpgas.values()) fpga.advance();
  }
}

const NO_EARS = { followed: [], moved: () => {}, released: () => {} };

/** What the parts of the board hear of the FPGA's outputs. */
const earsOf = (wires: Wires, now: () => number) => ({
  followed: wires.followed,
  moved: (part: number, at: number, levels: number) => wires.moved(part, at, levels),
  released: () => wires.released(now()),
});

/** Eight bytes that every chip of its kind has different, made from where it is soldered. */
function uniqueIdOf(place: string): Uint8Array {
  const bytes = new TextEncoder().encode(place);
  return Uint8Array.from({ length: 8 }, (_, i) => crc32(Uint8Array.of(i, ...bytes)) & 0xff);
}

/** The supervisor: its own logic is not part of this product; its pins rest until boundary scan drives them. */
class Sprig extends BoundaryDevice {
  constructor(version: number, pads: PadWorld) {
    const idcode = ((version << 28) | (SPRIG.idcode & 0x0fffffff)) >>> 0;
    super({ irLength: SPRIG.irLength, idcode, irCapture: SPRIG.irCapture }, SPRIG.package, SPRIG_INSTRUCTION, pads);
  }

  protected override get idcodeOpcode(): number {
    return SPRIG_INSTRUCTION.IDCODE;
  }

  protected override systemDrive(): boolean | null {
    return null;
  }
}

/** A plain device for chain practice: IDCODE after reset, if it has one, and BYPASS. */
class Generic extends TapDevice {
  constructor(entry: Extract<BenchFile['chain'][number], { kind: 'generic' }>) {
    const digits = (entry.irCapture ?? '0b01').slice(2);
    const capture = new Uint8Array(packedLength(entry.irLength));
    for (let i = 0; i < digits.length; i++) if (digits[digits.length - 1 - i] === '1') setBit(capture, i, 1);
    super(entry.irLength, entry.idcode === null ? null : Number(entry.idcode) >>> 0, capture);
  }
}
