// The firmware of pod/firmware on this computer, with pins that a test looks at and a wire that a test disturbs.
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { getBit, setBit } from '../../core/bits/index.ts';
import { last } from '../../core/lists.ts';
import { compiledFirmware, startFirmware } from '../../pod/index.ts';
import type { BytePort } from '../../pod/wire/port.ts';

type Firmware = Awaited<ReturnType<typeof startFirmware>>;

const INTO = join(tmpdir(), 'nimble-firmware');

/** The program; null where there is no C compiler. */
export const firmwareProgram = (options: readonly string[] = []): string | null =>
  compiledFirmware('pod/firmware', INTO, options);

/** One cycle of TCK as it came to the pins. */
export interface Cycle {
  readonly tms: number;
  readonly tdi: number;
}

const NAME = 'pins of a test';

/**
 * Pins that write down what is done to them; TDO is what TDI was so many cycles before. Written from docs/wire.md,
 * section 6, apart from the bench's.
 */
export class WrittenPins {
  readonly cycles: Cycle[] = [];
  readonly set: { readonly pin: number; readonly level: number }[] = [];
  readonly lineSent: number[] = [];
  readonly lineHeard: number[] = [];
  /** What the line still takes. */
  lineRoom = Number.POSITIVE_INFINITY;
  millivolts = 3300;
  can = 0b111111;
  rate = 0;
  #kept: number[] = [];
  readonly #delay: number;

  constructor(delay = 5) {
    this.#delay = delay;
  }

  async take(bytes: Uint8Array): Promise<Uint8Array> {
    for (const byte of bytes) this.#kept.push(byte);
    const out: number[] = [];
    for (;;) {
      const answer = this.#answer();
      if (!answer) return Uint8Array.from(out);
      for (const byte of answer) out.push(byte);
    }
  }

  #cut(size: number): number[] | null {
    return this.#kept.length < size ? null : this.#kept.splice(0, size);
  }

  #answer(): number[] | null {
    switch (String.fromCharCode(this.#kept[0] ?? 0)) {
      case 'A':
        return this.#cut(1) && [...le(this.can, 2), ...le(1000, 4), ...le(20_000_000, 4), ...text(NAME, 24)];
      case 'V':
        return this.#cut(1) && le(this.millivolts, 2);
      case 'R': {
        const request = this.#cut(5);
        if (!request) return null;
        this.rate = from(request.slice(1));
        return le(this.rate, 4);
      }
      case 'P': {
        const request = this.#cut(3);
        if (!request) return null;
        this.set.push({ pin: request[1] ?? 0, level: request[2] ?? 0 });
        return [1];
      }
      case 'S': {
        const request = this.#cut(6);
        return request?.slice(1, 5) ?? null;
      }
      case 'W': {
        const request = this.#cut(2);
        if (!request) return null;
        if (this.lineRoom <= 0) return [0];
        this.lineRoom--;
        this.lineSent.push(request[1] ?? 0);
        return [1];
      }
      case 'G':
        return this.#cut(1) && [Math.min(32, this.lineHeard.length)];
      case 'B':
        return this.#cut(1) && this.lineHeard.splice(0, 32);
      case 'C':
        return this.#clocked();
      default:
        return null;
    }
  }

  #clocked(): number[] | null {
    const [, last = 0, flags = 0] = this.#kept;
    const bytes = (last + 8) >> 3;
    const given = (flags & 1) + ((flags >> 1) & 1);
    const request = this.#kept.length < 3 ? null : this.#cut(3 + given * bytes);
    if (!request) return null;
    const vector = (which: number) => Uint8Array.from(request.slice(3 + which * bytes, 3 + (which + 1) * bytes));
    const tms = flags & 1 ? vector(0) : new Uint8Array(bytes);
    const tdi = flags & 2 ? vector(flags & 1) : new Uint8Array(bytes).fill(0xff);
    const tdo = new Uint8Array(bytes);
    for (let i = 0; i <= last; i++) {
      setBit(tdo, i, this.cycles.at(-this.#delay)?.tdi ?? 0);
      this.cycles.push({ tms: getBit(tms, i), tdi: getBit(tdi, i) });
    }
    return [...tdo];
  }
}

const le = (value: number, bytes: number): number[] =>
  Array.from({ length: bytes }, (_, i) => (value >>> (8 * i)) & 255);
const from = (bytes: readonly number[]): number => bytes.reduce((sum, byte, i) => sum + byte * 2 ** (8 * i), 0);
const text = (letters: string, bytes: number): number[] =>
  Array.from({ length: bytes }, (_, i) => letters.charCodeAt(i) || 0);

/** What happens to bytes on their way: what is given back arrives; null keeps all of it away. */
export type Weather = (bytes: Uint8Array, way: 'out' | 'back') => Uint8Array | null;

export interface Disturbed {
  readonly port: BytePort;
  weather: Weather | null;
  /** Milliseconds each way. */
  delay: number;
  /** What the line carries each way; without a limit at first. */
  bytesPerSecond: number;
  /** As if the plug was pulled. */
  pull(): void;
}

/** The wire of a firmware that runs with standard input and output. */
export function disturbedPort(firmware: Pick<Firmware, 'stdio'>): Disturbed {
  const { stdio } = firmware;
  if (!stdio) throw new Error('This firmware has a terminal.');
  let hear: (bytes: Uint8Array) => void = () => {};
  let gone: (why: string) => void = () => {};
  let isOpen = true;
  const busyUntil = { out: 0, back: 0 };
  const past = (bytes: Uint8Array, way: 'out' | 'back', arrive: (bytes: Uint8Array) => void) => {
    const left = made.weather ? made.weather(bytes, way) : bytes;
    if (!left || left.length === 0) return;
    const now = performance.now();
    // The last byte of it is there when all before it have been carried too.
    const carried = Math.max(now, busyUntil[way]) + (left.length * 1000) / made.bytesPerSecond;
    busyUntil[way] = carried;
    const wait = carried - now + made.delay;
    if (wait > 0.5) setTimeout(() => arrive(left), wait);
    else arrive(left);
  };
  stdio.read.on('data', (bytes: Buffer) => past(new Uint8Array(bytes), 'back', (some) => isOpen && hear(some)));
  const made: Disturbed = {
    weather: null,
    delay: 0,
    bytesPerSecond: Number.POSITIVE_INFINITY,
    port: {
      write: (bytes) => past(bytes.slice(), 'out', (some) => void (isOpen && stdio.write.write(some))),
      close: () => {
        isOpen = false;
      },
      onBytes: (listener) => {
        hear = listener;
      },
      onGone: (listener) => {
        gone = listener;
      },
    },
    pull: () => {
      isOpen = false;
      gone('it is not there any more');
    },
  };
  return made;
}

/** A firmware with written pins, and a way to open its wire again and again. */
export async function firmwareWith(program: string, pins = new WrittenPins()) {
  const firmware = await startFirmware(program, pins, 'stdio');
  const wires: Disturbed[] = [];
  const open = async (): Promise<BytePort> => {
    firmware.stdio?.read.removeAllListeners('data');
    const wire = disturbedPort(firmware);
    wires.push(wire);
    return wire.port;
  };
  return { pins, firmware, open, wire: () => last(wires), stop: () => firmware.stop() };
}
