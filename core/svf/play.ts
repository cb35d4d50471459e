import { type Bits, bitAt, concatBits, constantBits, hexOf, sliceBits } from '../bits/index.ts';
import { type Cable, ScanQueue, type TapState } from '../jtag/index.ts';
import { byteAt } from '../lists.ts';
import type { ScanName, SvfCommand } from './model.ts';

/**
 * TDO that differed. Digits are hexadecimal, most significant first; `bits` are the places that differ, bit 0 shifted
 * first.
 */
export interface SvfMismatch {
  readonly line: number;
  readonly name: 'SDR' | 'SIR';
  readonly length: number;
  readonly bits: readonly number[];
  readonly expected: string;
  readonly actual: string;
  readonly mask: string;
}

/** Devices around the one a file was written for: bits of their instruction registers, and how many there are. */
export interface SvfOffsets {
  readonly towardsTdo: { readonly irBits: number; readonly devices: number };
  readonly towardsTdi: { readonly irBits: number; readonly devices: number };
}

export const NO_OFFSETS: SvfOffsets = { towardsTdo: { irBits: 0, devices: 0 }, towardsTdi: { irBits: 0, devices: 0 } };

/** Why a command could not be carried out. */
export interface SvfRefusal {
  readonly code: string;
  readonly line: number;
  readonly message: string;
  readonly tryNext: readonly string[];
}

interface Sticky {
  readonly length: number;
  readonly tdi: Bits;
  readonly mask: Bits;
}

interface Pending {
  readonly command: Extract<SvfCommand, { kind: 'scan' }>;
  readonly answer: Promise<Bits>;
  readonly expected: Bits;
  readonly care: Bits;
  readonly header: number;
  readonly length: number;
}

const FLUSH_BITS = 1 << 18;
const FLUSH_COMMANDS = 256;
const MOST_BITS_NAMED = 32;
/** A pod cannot count a board's own clock; its cycles are taken as microseconds. */
const SCK_SECONDS = 1e-6;

/**
 * Carries out commands on a cable. Scans are sent in batches; what TDO should have been is compared when a batch is
 * back, and each difference is told with the line of its command.
 *
 * @source Serial Vector Format specification, revision E: sticky TDI and MASK of each scan command, default end states,
 * headers and trailers
 */
export class SvfPlayer {
  readonly #queue: ScanQueue;
  readonly #cable: Cable;
  readonly #offsets: SvfOffsets;
  readonly #sticky = new Map<ScanName, Sticky>();
  /** Expected TDO and mask of headers and trailers stay until they are given anew. */
  readonly #padTdo = new Map<ScanName, Bits | null>();
  readonly #endState: Record<'DR' | 'IR', TapState> = { DR: 'Run-Test/Idle', IR: 'Run-Test/Idle' };
  #runState: TapState = 'Run-Test/Idle';
  #runEnd: TapState = 'Run-Test/Idle';
  #pending: Pending[] = [];
  #queuedBits = 0;
  #queued = 0;
  #tckHz = 0;
  #firstHz = 0;
  #commands = 0;
  /** Things worth a line in the log, that are no errors. */
  readonly notes: { readonly line: number; readonly message: string }[] = [];

  constructor(cable: Cable, offsets: SvfOffsets = NO_OFFSETS) {
    this.#cable = cable;
    this.#queue = new ScanQueue(cable);
    this.#offsets = offsets;
  }

  get commands(): number {
    return this.#commands;
  }

  get tckCycles(): number {
    return this.#queue.counts.tckCycles;
  }

  /** A comparison waits for the next flush. */
  get waits(): boolean {
    return this.#pending.length > 0;
  }

  /**
   * Queues one command, and sends what is queued when it has become much. Resolves to the differences that showed by
   * then.
   */
  async take(command: SvfCommand): Promise<readonly SvfMismatch[] | SvfRefusal> {
    this.#commands++;
    const refused = await this.#carryOut(command);
    if (refused) return refused;
    this.#queued++;
    return this.#queuedBits >= FLUSH_BITS || this.#queued >= FLUSH_COMMANDS ? this.flush() : [];
  }

  /** Sends what is queued and compares. */
  async flush(): Promise<readonly SvfMismatch[]> {
    await this.#queue.flush();
    const pending = this.#pending;
    this.#pending = [];
    this.#queuedBits = 0;
    this.#queued = 0;
    const found: SvfMismatch[] = [];
    for (const check of pending) {
      const mismatch = compare(check, await check.answer);
      if (mismatch) found.push(mismatch);
    }
    return found;
  }

  /** Gives the cable back its frequency. */
  async close(): Promise<void> {
    if (this.#firstHz > 0 && this.#tckHz !== this.#firstHz) await this.#cable.setFrequency(this.#firstHz);
  }

  async #carryOut(command: SvfCommand): Promise<SvfRefusal | null> {
    switch (command.kind) {
      case 'scan':
        return this.#scan(command);
      case 'end-state':
        this.#endState[command.register] = command.state;
        return null;
      case 'frequency':
        return this.#frequency(command.hz);
      case 'runtest':
        return this.#runTest(command);
      case 'state':
        return this.#state(command);
      case 'trst':
        if (command.mode === 'ON') this.#queue.trst(true);
        else if (command.mode !== 'ABSENT') this.#queue.trst(false);
        return null;
    }
  }

  #scan(command: Extract<SvfCommand, { kind: 'scan' }>): SvfRefusal | null {
    const { name, length, line } = command;
    const before = this.#sticky.get(name);
    const same = before?.length === length;
    const tdi = command.tdi ?? (same ? before.tdi : null);
    if (length > 0 && !tdi)
      return {
        code: 'svf-no-tdi',
        line,
        message:
          `${name} gives no TDI, and ` +
          `${before ? `its length changed from ${before.length} to ${length} bits` : 'there was none before'}.`,
        tryNext: ['Give TDI whenever the length changes.'],
      };
    const mask = command.mask ?? (same ? before.mask : constantBits(length, 1));
    this.#sticky.set(name, { length, tdi: tdi ?? constantBits(0, 0), mask });
    if (name !== 'SDR' && name !== 'SIR') {
      this.#padTdo.set(name, command.tdo);
      return null;
    }
    const register = name === 'SDR' ? 'DR' : 'IR';
    const [head, tail] = [this.#pad(register === 'DR' ? 'HDR' : 'HIR'), this.#pad(register === 'DR' ? 'TDR' : 'TIR')];
    const near = this.#outside(register, this.#offsets.towardsTdo);
    const far = this.#outside(register, this.#offsets.towardsTdi);
    const all = concatBits(near, head.tdi, tdi as Bits, tail.tdi, far);
    const expects = command.tdo !== null || head.tdo !== null || tail.tdo !== null;
    const answer = this.#queue.scanTo(register, all, this.#endState[register], expects);
    this.#queuedBits += all.length;
    if (!expects) return null;
    const none = (count: number) => constantBits(count, 0);
    const expected = concatBits(
      none(near.length),
      head.tdo ?? none(head.tdi.length),
      command.tdo ?? none(length),
      tail.tdo ?? none(tail.tdi.length),
    );
    const care = concatBits(
      none(near.length),
      head.tdo ? head.mask : none(head.tdi.length),
      command.tdo ? mask : none(length),
      tail.tdo ? tail.mask : none(tail.tdi.length),
    );
    this.#pending.push({ command, answer, expected, care, header: near.length + head.tdi.length, length });
    return null;
  }

  #pad(name: ScanName): { tdi: Bits; tdo: Bits | null; mask: Bits } {
    const sticky = this.#sticky.get(name);
    const none = constantBits(0, 0);
    return sticky
      ? { tdi: sticky.tdi, tdo: this.#padTdo.get(name) ?? null, mask: sticky.mask }
      : { tdi: none, tdo: null, mask: none };
  }

  /** Devices that the file does not know of are put into BYPASS. */
  #outside(register: 'DR' | 'IR', { irBits, devices }: { readonly irBits: number; readonly devices: number }): Bits {
    return register === 'IR' ? constantBits(irBits, 1) : constantBits(devices, 0);
  }

  async #frequency(hz: number | null): Promise<null> {
    await this.#queue.flush();
    const { tckHz, mostHz } = await this.#cable.state();
    this.#firstHz ||= tckHz;
    this.#tckHz = await this.#cable.setFrequency(Math.min(hz ?? this.#firstHz, mostHz));
    return null;
  }

  async #runTest(command: Extract<SvfCommand, { kind: 'runtest' }>): Promise<null> {
    if (command.runState !== null) {
      this.#runState = command.runState;
      this.#runEnd = command.endState ?? command.runState;
    } else if (command.endState !== null) this.#runEnd = command.endState;
    if (this.#tckHz === 0) this.#tckHz = (await this.#cable.state()).tckHz;
    this.#moveTo(this.#runState);
    const clocked = command.clock === 'TCK' ? command.count / this.#tckHz : command.count * SCK_SECONDS;
    if (command.clock === 'TCK' && command.count > 0) this.#queue.clock(command.count);
    const rest = Math.max(command.least, clocked) - (command.clock === 'TCK' ? clocked : 0);
    if (rest > 0) this.#queue.wait(rest * 1e6);
    if (command.clock === 'SCK' && command.count > 0)
      this.notes.push({
        line: command.line,
        message: `SCK is the board's own clock and is not counted: waited ${command.count} µs.`,
      });
    if (command.most !== null && clocked > command.most)
      this.notes.push({
        line: command.line,
        message: `${command.count} cycles take ${clocked} s at this TCK, longer than the ${command.most} s allowed.`,
      });
    this.#queuedBits += command.clock === 'TCK' ? command.count : 0;
    this.#moveTo(this.#runEnd);
    return null;
  }

  #state({ path, line }: Extract<SvfCommand, { kind: 'state' }>): SvfRefusal | null {
    const [only] = path;
    if (path.length === 1 && only) {
      this.#moveTo(only);
      return null;
    }
    const fromReset = only === 'Test-Logic-Reset';
    if (fromReset) this.#moveTo(only);
    if (this.#queue.follow(fromReset ? path.slice(1) : path)) return null;
    return {
      code: 'svf-path',
      line,
      message: `These states do not follow each other from ${this.#queue.state ?? 'an unknown state'}: ${path.join(', ')}.`,
      tryNext: ['Name every state on the way, or only the last one.'],
    };
  }

  /** From a pause state to itself the default path leads through Update and Capture. */
  #moveTo(state: TapState): void {
    if (this.#queue.state === state && state === 'Pause-DR')
      this.#queue.follow(['Exit2-DR', 'Update-DR', 'Select-DR-Scan', 'Capture-DR', 'Exit1-DR', 'Pause-DR']);
    else if (this.#queue.state === state && state === 'Pause-IR')
      this.#queue.follow([
        'Exit2-IR',
        'Update-IR',
        'Select-DR-Scan',
        'Select-IR-Scan',
        'Capture-IR',
        'Exit1-IR',
        'Pause-IR',
      ]);
    else if (state === 'Test-Logic-Reset') {
      this.#queue.reset();
      this.#queue.goto(state);
    } else this.#queue.goto(state);
  }
}

function compare({ command, expected, care, header, length }: Pending, answer: Bits): SvfMismatch | null {
  let differs = false;
  for (let i = 0; i < expected.bytes.length && !differs; i++)
    differs = ((byteAt(expected.bytes, i) ^ byteAt(answer.bytes, i)) & byteAt(care.bytes, i)) !== 0;
  if (!differs) return null;
  const bits: number[] = [];
  for (let i = 0; i < expected.length && bits.length < MOST_BITS_NAMED; i++)
    if (bitAt(care, i) && bitAt(expected, i) !== bitAt(answer, i)) bits.push(i - header);
  const digits = (vector: Bits) => hexOf(sliceBits(vector, header, length)).toUpperCase();
  return {
    line: command.line,
    name: command.name as 'SDR' | 'SIR',
    length,
    bits,
    expected: digits(expected),
    actual: digits(answer),
    mask: digits(care),
  };
}
