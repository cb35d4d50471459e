import { getBit, packedLength, reverseByte, setBit } from '../../core/bits/index.ts';
import { caseDrawing } from '../../core/families/cases/index.ts';
import { INSTRUCTION, IR_CAPTURE, IR_LENGTH, PART_TABLE, STATUS } from '../../core/families/corvane/index.ts';
import { BoundaryDevice, type PadWorld } from '../boundary.ts';
import type { FlashChip } from '../flash-chip.ts';
import { bitsNumber, type DataRegister, numberBits, ShiftRegister, type TckEdge } from '../tap.ts';
import { updateIn } from './boot-header.ts';
import { ConfigStream } from './config-stream.ts';
import { type Ears, Fabric } from './fabric.ts';
import { designIn } from './frames.ts';

const FRAME_BYTES = 256;
/** Where the golden image lies. */
const GOLDEN = 0;
const DEFAULT_VOLTS = 3.3;
const CLEAR_MICROSECONDS = 150;
const BOOT_DELAY_MICROSECONDS = 4000;
const BOOT_BITS_PER_MICROSECOND = 20;
const BOOT_SEARCH_BYTES = 4096;
/** How long the configuration memory is cleared when the reconfigure wire is pulled. */
const RECONFIGURE_MICROSECONDS = 500;

type PartRow = (typeof PART_TABLE)[number];

interface CorvaneWorld extends PadWorld {
  /** Microseconds. */
  readonly now: () => number;
  readonly passTck: () => void;
  readonly bootFromFlash: () => boolean;
  /** False while the board's oscillators stand still. */
  readonly clocksRun: () => boolean;
  readonly oscillators: ReadonlyMap<string, number>;
  /** Supply of each bank in volts, by number; 3.3 V where it is not said. */
  readonly banks: Readonly<Record<string, number>>;
  readonly flash: FlashChip | null;
  /** A design has begun to run: its inputs want their levels. */
  readonly started: (fabric: Fabric) => void;
  /** What else is told of its outputs, and that it drives none any more. */
  readonly ears: Ears & { readonly released: () => void };
}

/** What is printed on the case; the usual package and the version of the table where it is not said. */
interface Marking {
  readonly part: string;
  readonly packageName: string | undefined;
  readonly version: number | undefined;
}

/**
 * A Corvane FPGA: TAP, configuration engine and fabric. Its design comes from the bits it is sent and from nowhere
 * else.
 */
export class Corvane extends BoundaryDevice {
  readonly part: PartRow;
  readonly packageName: string;
  readonly #world: CorvaneWorld;
  readonly #status = new ShiftRegister(32, () => numberBits(this.#statusWord(), 32));
  readonly #print = new ShiftRegister(128, () => Uint8Array.from(this.#fingerprint, reverseByte));
  readonly #usercode = new ShiftRegister(32, () =>
    numberBits(bitsNumber(Uint8Array.from(this.#fingerprint.subarray(0, 4), reverseByte), 32), 32),
  );
  readonly #program: DataRegister = {
    capture: () => {},
    shift: (tdi, count) => {
      if (this.#enabled) this.#stream?.take(tdi, count);
      return new Uint8Array(packedLength(count));
    },
    update: () => {},
  };
  /** Frames in order, bit 7 of each byte first; the last frame is run-time marks instead. */
  readonly #readBack: DataRegister = {
    capture: () => {
      this.#readAt = 0;
    },
    shift: (_, count) => {
      const out = new Uint8Array(packedLength(count));
      for (let i = 0; i < count; i++, this.#readAt++) if (this.#frameBit(this.#readAt)) setBit(out, i, 1);
      return out;
    },
    update: () => {},
  };
  readonly #spi: DataRegister;
  readonly #fabricLink: DataRegister;
  #flags = 0;
  #enabled = false;
  #clearAt: number | null = null;
  #bootAt: number | null = null;
  /** Where the image lies that is being read; 0 is the golden one. */
  #bootAddress = GOLDEN;
  #fingerprint = new Uint8Array(16);
  #frames = new Uint8Array(0);
  #readAt = 0;
  #stream: ConfigStream | null = null;
  #instruction: number | null = null;
  fabric: Fabric | null = null;

  constructor({ part, packageName, version }: Marking, world: CorvaneWorld) {
    const row = PART_TABLE.find(({ name }) => name === part);
    if (!row) throw new RangeError(`no part ${part}`);
    const inCase = packageName ?? row.packages[0] ?? '';
    const idcode = (((version ?? row.idcode >>> 28) << 28) | (row.idcode & 0x0fffffff)) >>> 0;
    super({ irLength: IR_LENGTH, idcode, irCapture: IR_CAPTURE }, inCase, INSTRUCTION, world);
    this.part = row;
    this.packageName = inCase;
    this.#world = world;
    this.#spi = spiRegister(world.flash);
    this.#fabricLink = {
      capture: () => {},
      shift: (tdi, count) => this.#shiftFabric(tdi, count),
      update: () => {},
    };
  }

  /** Power arrives: configuration memory is empty, and the boot switch is looked at. */
  powerUp(): void {
    this.#clear();
    this.#set(STATUS.CLEAR, true);
    this.#beginBoot(BOOT_DELAY_MICROSECONDS);
  }

  /** The reconfigure wire is pulled: as at power-on, but that everything else on the board goes on. */
  reconfigure(): void {
    this.#clear();
    this.#set(STATUS.CLEAR, true);
    this.#bootAt = null;
    this.#beginBoot(RECONFIGURE_MICROSECONDS);
  }

  #beginBoot(delay: number): void {
    const { flash } = this.#world;
    if (!this.#world.bootFromFlash() || !flash) return;
    this.#bootAddress = updateIn(flash.memory) ?? GOLDEN;
    this.#readImageAfter(delay);
  }

  #readImageAfter(delay: number): void {
    const bits = this.part.frames * (FRAME_BYTES + 8) * 8;
    this.#bootAt = this.#world.now() + delay + bits / BOOT_BITS_PER_MICROSECOND;
  }

  powerDown(): void {
    this.#clear();
    this.#bootAt = null;
    this.#clearAt = null;
  }

  #supplyOf(pin: string): number {
    const bank = caseDrawing(this.packageName).pins.find((p) => p.name === pin)?.bank;
    return this.#world.banks[String(bank ?? '')] ?? DEFAULT_VOLTS;
  }

  get done(): boolean {
    return this.fabric !== null;
  }

  /** When something that was begun ends by itself, in microseconds; infinity when nothing was. */
  get nextEvent(): number {
    return Math.min(this.#clearAt ?? Number.POSITIVE_INFINITY, this.#bootAt ?? Number.POSITIVE_INFINITY);
  }

  /** Called as time passes. */
  advance(): void {
    const now = this.#world.now();
    if (this.#clearAt !== null && now >= this.#clearAt) {
      this.#clearAt = null;
      this.#set(STATUS.CLEAR, true);
    }
    if (this.#bootAt !== null && now >= this.#bootAt) {
      this.#bootAt = null;
      this.#boot();
    }
    this.#guarded(() => this.fabric?.runUntil(now, this.#world.clocksRun()));
  }

  /** A fault in what runs is that part's: it goes dark as by a lost supply, and the rest of the bench goes on. */
  #guarded(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.fabric = null;
      console.error(`The design in ${this.part.name} failed in the simulation; the part is dark now.`, error);
    }
  }

  override get live(): boolean {
    return this.#instruction === INSTRUCTION.FABRIC_LINK && this.fabric !== null;
  }

  override edge(edge: TckEdge): void {
    this.#guarded(() => this.fabric?.linkEdge(edge));
  }

  protected override get idcodeOpcode(): number {
    return INSTRUCTION.IDCODE;
  }

  protected override registerOf(opcode: number): DataRegister | null {
    switch (opcode) {
      case INSTRUCTION.USERCODE:
        return this.#usercode;
      case INSTRUCTION.ISC_PROGRAM:
        return this.#program;
      case INSTRUCTION.CFG_STATUS:
        return this.#status;
      case INSTRUCTION.CFG_PRINT:
        return this.#print;
      case INSTRUCTION.SPI_LINK:
        return this.#spi;
      case INSTRUCTION.FABRIC_LINK:
        return this.fabric ? this.#fabricLink : null;
      case INSTRUCTION.ISC_READ:
        return this.#readBack;
      default:
        return super.registerOf(opcode);
    }
  }

  protected override systemDrive(pin: string): boolean | null {
    return this.fabric?.pin(pin) ?? null;
  }

  protected override instructionChanged(opcode: number | null): void {
    super.instructionChanged(opcode);
    this.#instruction = opcode;
    if (opcode === INSTRUCTION.ISC_ENABLE) this.#enable();
    if (opcode === INSTRUCTION.SPI_LINK && this.part.flashStopsDesign && this.fabric) {
      this.#clear();
      this.#set(STATUS.CLEAR, true);
    }
    if (opcode === INSTRUCTION.ISC_DISABLE) {
      this.#enabled = false;
      this.#set(STATUS.ENABLED, false);
    }
  }

  #frameBit(at: number): boolean {
    const byte = at >>> 3;
    const marks = this.#frames.length - FRAME_BYTES;
    const value =
      byte < marks
        ? (this.#frames[byte] ?? 0)
        : byte < this.#frames.length
          ? Math.floor(this.#world.now() / 256 ** ((byte - marks) % 4)) & 0xff
          : 0;
    return ((value >>> (7 - (at & 7))) & 1) === 1;
  }

  #enable(): void {
    this.#clear();
    this.#bootAt = null;
    this.#enabled = true;
    this.#set(STATUS.ENABLED, true);
    this.#clearAt = this.#world.now() + CLEAR_MICROSECONDS;
    this.#stream = this.#listening(false);
  }

  #clear(): void {
    if (this.fabric) this.#world.ears.released();
    this.fabric = null;
    this.#flags = 0;
    this.#enabled = false;
    this.#fingerprint = new Uint8Array(16);
    this.#frames = new Uint8Array(this.part.frames * FRAME_BYTES);
    this.#stream = null;
  }

  #boot(): void {
    const memory = this.#world.flash?.memory;
    if (!memory) return;
    this.#readImage(memory.subarray(this.#bootAddress));
    if (this.#bootAddress === GOLDEN) return;
    if (this.fabric) return this.#set(STATUS.FROM_UPDATE, true);
    this.#clear();
    this.#set(STATUS.CLEAR, true);
    this.#set(STATUS.FELL_BACK, true);
    this.#bootAddress = GOLDEN;
    this.#readImageAfter(0);
  }

  #readImage(memory: Uint8Array): void {
    const stream = this.#listening(true);
    const shifted = Uint8Array.from(memory.subarray(0, BOOT_SEARCH_BYTES), reverseByte);
    stream.take(shifted, shifted.length * 8);
    if (!this.#get(STATUS.START_SEEN)) return;
    const rest = Uint8Array.from(
      memory.subarray(BOOT_SEARCH_BYTES, this.part.frames * (FRAME_BYTES + 8) + BOOT_SEARCH_BYTES),
      reverseByte,
    );
    stream.take(rest, rest.length * 8);
  }

  #listening(fromFlash: boolean): ConfigStream {
    const { frames } = this.part;
    return new ConfigStream({
      started: () => this.#set(STATUS.START_SEEN, true),
      idcode: (value) => this.#set(STATUS.IDCODE_MISMATCH, ((value ^ this.part.idcode) & 0x0fffffff) !== 0),
      fingerprint: (bytes) => {
        this.#fingerprint = bytes.slice(0, 16);
      },
      frame: (address, data) => {
        if (address < frames && !this.#get(STATUS.IDCODE_MISMATCH))
          this.#frames.set(data.subarray(0, FRAME_BYTES), address * FRAME_BYTES);
      },
      checked: (isRight) => {
        this.#set(STATUS.CHECKED, true);
        this.#set(STATUS.CRC_ERROR, !isRight);
      },
      malformed: () => this.#set(STATUS.CRC_ERROR, true),
      begin: () => this.#start(fromFlash),
    });
  }

  #start(fromFlash: boolean): void {
    if (!this.#get(STATUS.CHECKED) || this.#get(STATUS.CRC_ERROR) || this.#get(STATUS.IDCODE_MISMATCH)) return;
    const design = designIn(this.#frames);
    if (!design) return;
    this.#guarded(() => {
      this.fabric = new Fabric(
        design,
        this.#world.oscillators,
        (pin) => this.#supplyOf(pin),
        this.#world.now(),
        this.#world.ears,
      );
      this.#set(STATUS.FROM_FLASH, fromFlash);
      this.#world.started(this.fabric);
    });
  }

  #statusWord(): number {
    let word = this.#flags;
    if (this.fabric) word |= 1 << STATUS.DONE;
    if (this.#world.bootFromFlash()) word |= 1 << STATUS.BOOT_FLASH;
    return word >>> 0;
  }

  #get(bit: number): boolean {
    return (this.#flags & (1 << bit)) !== 0;
  }

  #set(bit: number, on: boolean): void {
    this.#flags = on ? this.#flags | (1 << bit) : this.#flags & ~(1 << bit);
  }

  #shiftFabric(tdi: Uint8Array, count: number): Uint8Array {
    const out = new Uint8Array(packedLength(count));
    for (let i = 0; i < count; i++) {
      this.#world.passTck();
      const tdo = this.fabric?.linkEdge({ capture: false, shift: true, update: false, tdi: getBit(tdi, i) }) ?? 0;
      if (tdo) setBit(out, i, 1);
    }
    return out;
  }
}

/** SPI_LINK: from the first 1 after Capture-DR the scan is the flash's; its answer leaves one cycle later. */
function spiRegister(flash: FlashChip | null): DataRegister {
  let open = false;
  let held = 0;
  const close = () => {
    if (open) flash?.deselect();
    open = false;
    held = 0;
  };
  return {
    capture: close,
    shift: (tdi, count) => {
      const out = new Uint8Array(packedLength(count));
      for (let i = 0; i < count; i++) {
        if (held) setBit(out, i, 1);
        const bit = getBit(tdi, i);
        if (open) held = flash ? flash.clock(bit) : 1;
        else if (bit) {
          open = true;
          flash?.select();
        }
      }
      return out;
    },
    update: close,
  };
}
