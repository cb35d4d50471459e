import { partNamed, SPRIG } from '../core/fabric/index.ts';
import type { CableOp } from '../core/jtag/index.ts';
import type { PanelState } from '../core/pod/index.ts';
import type { BenchFile } from './bench-file.ts';
import { Board } from './board.ts';
import { Chain } from './chain.ts';
import { Corvane } from './corvane.ts';
import { FlashChip } from './flash-chip.ts';
import { TapDevice } from './tap.ts';

/** Not a divisor of common refresh periods, so that what is multiplexed is seen evenly. */
const SAMPLE_MICROSECONDS = 193;
const SPRIG_IDCODE_OPCODE = 0b00010;

/** Contents of the flash chips, by place in the chain: what a board keeps without power. */
export type FlashContents = ReadonlyMap<number, Uint8Array>;

/** Everything on one bench, in simulated time. Time passes only when `advance` or a cable operation lets it. */
export class Bench {
  readonly file: BenchFile;
  readonly #chain: Chain;
  readonly #fpgas = new Map<number, Corvane>();
  readonly #flash = new Map<number, FlashChip>();
  readonly #board: Board;
  readonly #tckPeriod: number;
  #time = 0;
  #nextSample = 0;
  #powered = false;
  #bootFromFlash = true;

  constructor(file: BenchFile, kept: FlashContents = new Map()) {
    this.file = file;
    this.#tckPeriod = 1e6 / file.tckHz;
    this.#board = new Board(file.board);
    const devices = file.chain.map((entry, index) => {
      if (entry.kind === 'sprig') return new Sprig();
      const part = partNamed(entry.part);
      if (!part) throw new RangeError(`no part ${entry.part}`);
      const flash = entry.flash === undefined ? null : new FlashChip(entry.flash, kept.get(index) ?? null, () => this.#time);
      if (flash) this.#flash.set(index, flash);
      const onBoard = index === file.board.fpga;
      const fpga = new Corvane(part, {
        now: () => this.#time,
        passTck: () => this.#pass(1),
        bootFromFlash: () => this.#bootFromFlash,
        banks: onBoard ? file.board.banks : {},
        oscillators: onBoard ? new Map(file.board.oscillators.map(({ pin, hz }) => [pin, hz])) : new Map(),
        flash,
        started: (fabric) => onBoard && this.#board.present(fabric),
      });
      this.#fpgas.set(index, fpga);
      return fpga;
    });
    this.#chain = new Chain(devices, { powered: () => this.#powered, pass: (cycles) => this.#pass(cycles), wait: (us) => this.advance(us) });
    this.setPower(true);
  }

  /** Simulated microseconds since the bench was set up. */
  get time(): number {
    return this.#time;
  }

  get powered(): boolean {
    return this.#powered;
  }

  get referenceVolts(): number {
    return this.#powered ? this.file.referenceVolts : 0;
  }

  get flashContents(): FlashContents {
    return new Map([...this.#flash].map(([index, chip]) => [index, chip.memory]));
  }

  /** Grows whenever a chip's contents change. */
  get flashChanges(): number {
    return [...this.#flash.values()].reduce((sum, chip) => sum + chip.changes, 0);
  }

  setPower(on: boolean): void {
    if (on === this.#powered) return;
    this.#powered = on;
    for (const chip of this.#flash.values()) chip.powerUp();
    for (const fpga of this.#fpgas.values()) on ? fpga.powerUp() : fpga.powerDown();
    if (on) this.#chain.powerUp();
    else this.#board.goDark();
  }

  /** Where the boot switch of the board stands; looked at when power arrives. */
  setBootSource(source: 'flash' | 'jtag'): void {
    this.#bootFromFlash = source === 'flash';
  }

  operate(name: string, on: boolean): boolean {
    return this.#board.operate(name, on, this.#main?.fabric ?? null);
  }

  /** Carries out cable operations; one packed answer for every shift that captures. */
  run(ops: readonly CableOp[]): Uint8Array[] {
    const answers: Uint8Array[] = [];
    for (const op of ops) {
      const answer = this.#chain.run(op);
      if (answer) answers.push(answer);
    }
    return answers;
  }

  /** Lets time pass, everything running, the board looked at about five times a millisecond. */
  advance(microseconds: number): void {
    const end = this.#time + microseconds;
    while (this.#nextSample <= end) {
      this.#moveTo(Math.max(this.#time, this.#nextSample));
      this.#board.sample(this.#powered ? (this.#main?.fabric ?? null) : null, this.#time);
      this.#nextSample += SAMPLE_MICROSECONDS;
    }
    this.#moveTo(end);
  }

  /** The panel as seen now; lamps averaged over at least `leastSamples` looks. */
  panel(leastSamples = 100): PanelState {
    const done = Object.fromEntries([...this.#fpgas].map(([index, fpga]) => [String(index), fpga.done]));
    const { fpga, oscillators } = this.file.board;
    return { fpga, oscillators: oscillators.map(({ name, hz }) => ({ name, hz })), time: this.#time, powered: this.#powered, bootSource: this.#bootFromFlash ? 'flash' : 'jtag', done, ...this.#board.look(this.#time, leastSamples) };
  }

  get #main(): Corvane | undefined {
    return this.#fpgas.get(this.file.board.fpga);
  }

  #pass(cycles: number): void {
    this.advance(cycles * this.#tckPeriod);
  }

  #moveTo(time: number): void {
    this.#time = time;
    if (this.#powered) for (const fpga of this.#fpgas.values()) fpga.advance();
  }
}

/** The supervisor: answers IDCODE and BYPASS. */
class Sprig extends TapDevice {
  constructor() {
    super(SPRIG.irLength, SPRIG.idcode, 0b00101);
  }

  protected override get idcodeOpcode(): number {
    return SPRIG_IDCODE_OPCODE;
  }
}
