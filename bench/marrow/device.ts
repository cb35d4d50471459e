import { getBit, packedLength, reverseByte, setBit } from '../../core/bits/index.ts';
import { BoundaryDevice, type PadWorld } from '../boundary.ts';
import type { FlashChip } from '../flash-chip.ts';
import { ConfigStream, designIn, type Ears, Fabric } from '../corvane/index.ts';
import { type DataRegister, numberBits, ShiftRegister, type TckEdge } from '../tap.ts';
import { opened } from './envelope.ts';
import { FEED_BYTES, MARROW, MARROW_INSTRUCTION, MARROW_STATE, USER_PREFIX_BITS } from './facts.ts';

const FRAME_BYTES = 256;
const MOST_FED = 2048;
const SUPPLY_VOLTS = 3.3;

interface MarrowWorld extends PadWorld {
  /** Microseconds. */
  readonly now: () => number;
  readonly passTck: () => void;
  readonly clocksRun: () => boolean;
  readonly oscillators: ReadonlyMap<string, number>;
  /** A flash on pins of the fabric. */
  readonly flash: {
    readonly chip: FlashChip;
    readonly pins: { readonly cs_n: string; readonly sck: string; readonly mosi: string; readonly miso: string };
  } | null;
  readonly started: (fabric: Fabric) => void;
  readonly ears: Ears & { readonly released: () => void };
}

/** A Marrow: what it is fed between FEED_BEGIN and FEED_END it opens, and runs where that holds a design for it. */
export class Marrow extends BoundaryDevice {
  readonly #world: MarrowWorld;
  readonly #state = new ShiftRegister(MARROW_STATE.length, () => numberBits(this.#stateWord(), MARROW_STATE.length));
  readonly #feed = new ShiftRegister(
    FEED_BYTES * 8,
    () => new Uint8Array(FEED_BYTES),
    (piece) => this.#take(piece),
  );
  readonly #user: DataRegister;
  #fed: Uint8Array[] = [];
  #isFed = false;
  #isRefused = false;
  #isSelected = false;
  #sck = false;
  #instruction: number | null = null;
  /** Bits of the user register that are on their way to TDO. */
  #late: number[] = [];
  fabric: Fabric | null = null;

  constructor(version: number | undefined, world: MarrowWorld) {
    const idcode = (((version ?? MARROW.idcode >>> 28) << 28) | (MARROW.idcode & 0x0fffffff)) >>> 0;
    const { irLength, irCapture } = MARROW;
    super({ irLength, idcode, irCapture }, MARROW.package, MARROW_INSTRUCTION, world);
    this.#world = world;
    this.#user = {
      capture: () => {
        this.#late = new Array(USER_PREFIX_BITS).fill(0);
      },
      shift: (tdi, count) => this.#shiftUser(tdi, count),
      update: () => {},
    };
  }

  powerUp(): void {
    this.#clear();
  }

  powerDown(): void {
    this.#clear();
  }

  /** It remembers nothing: pulled, the wire empties it. */
  reconfigure(): void {
    this.#clear();
  }

  get done(): boolean {
    return this.fabric !== null;
  }

  get nextEvent(): number {
    return Number.POSITIVE_INFINITY;
  }

  advance(): void {
    this.#guarded(() => this.fabric?.runUntil(this.#world.now(), this.#world.clocksRun()));
  }

  override get live(): boolean {
    return this.#instruction === MARROW_INSTRUCTION.USER1 && this.fabric !== null;
  }

  override edge(edge: TckEdge): void {
    this.#guarded(() => void this.#linkEdge(edge));
  }

  /** An edge of TCK in the fabric, and what the flash on its pins makes of that. */
  #linkEdge(edge: TckEdge): number {
    const tdo = this.fabric?.linkEdge(edge) ?? 0;
    if (this.#world.flash) this.#followFlash(this.#world.flash);
    return tdo;
  }

  #followFlash({ chip, pins }: NonNullable<MarrowWorld['flash']>): void {
    const { fabric } = this;
    if (!fabric) return;
    const isSelected = fabric.pin(pins.cs_n) === false;
    if (isSelected !== this.#isSelected) isSelected ? chip.select() : chip.deselect();
    this.#isSelected = isSelected;
    const sck = fabric.pin(pins.sck) === true;
    if (sck && !this.#sck && isSelected) chip.clock(fabric.pin(pins.mosi) ? 1 : 0);
    this.#sck = sck;
    // The chip's next bit is there once SCK has fallen.
    if (!sck) fabric.setPin(pins.miso, isSelected ? chip.level === 1 : true);
  }

  protected override get idcodeOpcode(): number {
    return MARROW_INSTRUCTION.IDCODE;
  }

  protected override registerOf(opcode: number): DataRegister | null {
    switch (opcode) {
      case MARROW_INSTRUCTION.STATE:
        return this.#state;
      case MARROW_INSTRUCTION.FEED:
        return this.#feed;
      case MARROW_INSTRUCTION.USER1:
        return this.fabric ? this.#user : null;
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
    if (opcode === MARROW_INSTRUCTION.FEED_BEGIN) {
      this.#clear();
      this.#isFed = true;
    }
    if (opcode === MARROW_INSTRUCTION.FEED_END && this.#isFed) this.#start();
  }

  #clear(): void {
    if (this.fabric) this.#world.ears.released();
    this.fabric = null;
    this.#fed = [];
    this.#isFed = false;
    this.#isRefused = false;
  }

  #take(piece: Uint8Array): void {
    if (this.#isFed && this.#fed.length < MOST_FED) this.#fed.push(piece);
  }

  #start(): void {
    this.#isFed = false;
    const plain = opened(joined(this.#fed));
    const design = plain && designOf(plain);
    this.#isRefused = !design;
    this.#fed = [];
    if (!design) return;
    this.#guarded(() => {
      const { oscillators, ears, now } = this.#world;
      this.fabric = new Fabric(design, oscillators, () => SUPPLY_VOLTS, now(), ears);
      this.#world.started(this.fabric);
    });
  }

  #guarded(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.fabric = null;
      console.error(`The design in ${MARROW.name} failed in the simulation; the part is dark now.`, error);
    }
  }

  #stateWord(): number {
    const { alive, refused, runs } = MARROW_STATE;
    return (1 << alive) | (this.#isRefused ? 1 << refused : 0) | (this.fabric ? 1 << runs : 0);
  }

  #shiftUser(tdi: Uint8Array, count: number): Uint8Array {
    const out = new Uint8Array(packedLength(count));
    for (let i = 0; i < count; i++) {
      this.#world.passTck();
      const edge = { capture: false, shift: true, update: false, tdi: getBit(tdi, i) };
      this.#late.push(this.#linkEdge(edge));
      if (this.#late.shift()) setBit(out, i, 1);
    }
    return out;
  }
}

function joined(pieces: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(pieces.length * FEED_BYTES);
  for (const [i, piece] of pieces.entries()) whole.set(piece, i * FEED_BYTES);
  return whole;
}

/** The design in a stream, read as the fabric's own kind of part would. */
function designOf(stream: Uint8Array) {
  const frames = new Uint8Array(Math.ceil(stream.length / FRAME_BYTES) * FRAME_BYTES);
  let isRight = false;
  const reader = new ConfigStream({
    started: () => {},
    idcode: () => {},
    fingerprint: () => {},
    frame: (address, data) => {
      if ((address + 1) * FRAME_BYTES <= frames.length)
        frames.set(data.subarray(0, FRAME_BYTES), address * FRAME_BYTES);
    },
    checked: (right) => {
      isRight = right;
    },
    malformed: () => {},
    begin: () => {},
  });
  const shifted = stream.map(reverseByte);
  reader.take(shifted, shifted.length * 8);
  return isRight ? designIn(frames) : null;
}
