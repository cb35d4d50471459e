import type { CableOp } from '../core/jtag/index.ts';
import type { PodTarget } from '../core/pod/index.ts';
import { getBit } from '../core/bits/index.ts';
import { USUAL_LINE } from '../core/serial/index.ts';

/** Bits of what the pins of a microcontroller reach, in the order of the wire. docs/wire.md, section 3 */
const CAN = { trst: 1, reconfigure: 4, power: 8, measure: 16, line: 32 } as const;
const PIN = { trst: 1, reconfigure: 3, power: 4, line: 5 } as const;
const [LOW, HIGH] = [0, 1];
const NAME_BYTES = 24;
const MOST_LINE = 32;
const LONGEST_BREAK_MILLISECONDS = 5000;
const DATA_BITS = [5, 6, 7, 8] as const;
const PARITIES = ['none', 'even', 'odd'] as const;

/**
 * The pins of a microcontroller whose firmware runs in a process of its own, as wires to a bench: each request is
 * answered at the pace of the bench's clock. docs/wire.md, section 6
 */
export class Pins {
  readonly #target: PodTarget;
  #kept = new Uint8Array(0);
  #heard: number[] = [];

  constructor(target: PodTarget) {
    this.#target = target;
  }

  /** Takes what the process asks, in any pieces; gives the answers to what is whole. */
  async take(bytes: Uint8Array): Promise<Uint8Array> {
    this.#kept = Uint8Array.from([...this.#kept, ...bytes]);
    const answers: number[] = [];
    for (let size = this.#whole(); size > 0; size = this.#whole()) {
      const request = this.#kept.slice(0, size);
      this.#kept = this.#kept.slice(size);
      for (const byte of await this.#answer(request)) answers.push(byte);
    }
    return Uint8Array.from(answers);
  }

  /** Bytes of the request that stands first; 0 while it is not whole. */
  #whole(): number {
    const [command = 0, first = 0, flags = 0] = this.#kept;
    const bytes = (first + 8) >> 3;
    const sizes: Readonly<Record<string, number>> = {
      A: 1,
      V: 1,
      G: 1,
      B: 1,
      W: 2,
      P: 3,
      R: 5,
      S: 6,
      C: this.#kept.length < 3 ? 3 : 3 + ((flags & 1) + (flags >> 1)) * bytes,
    };
    const size = sizes[String.fromCharCode(command)] ?? 1;
    return this.#kept.length >= size ? size : 0;
  }

  async #answer(request: Uint8Array): Promise<Iterable<number>> {
    const { cable, line } = this.#target;
    const view = new DataView(request.buffer);
    switch (String.fromCharCode(request[0] ?? 0)) {
      case 'A':
        return this.#about();
      case 'C':
        return this.#cycles(request);
      case 'R':
        return number(await cable.setFrequency(Math.max(1, view.getUint32(1, true))), 4);
      case 'P':
        await this.#set(request[1] ?? 0, request[2] ?? 0);
        return [1];
      case 'V':
        return number(Math.round(((await cable.state()).referenceVolts ?? 0) * 1000), 2);
      case 'S': {
        const form = request[5] ?? 0;
        const made = await line?.set({
          rate: view.getUint32(1, true),
          dataBits: DATA_BITS[form & 3] ?? 8,
          parity: PARITIES[(form >> 2) & 3] ?? 'none',
          stopBits: form & 16 ? 2 : 1,
          flow: 'none',
        });
        return number(made?.rate ?? USUAL_LINE.rate, 4);
      }
      case 'W':
        return [(await line?.send(request.subarray(1))) ?? 0];
      case 'G':
        for (const { value } of line?.take().frames ?? []) this.#heard.push(value);
        return [Math.min(MOST_LINE, this.#heard.length)];
      case 'B':
        return this.#heard.splice(0, MOST_LINE);
      default:
        return [];
    }
  }

  async #about(): Promise<number[]> {
    const { name, cable, controls, line } = this.#target;
    const { leastHz, mostHz } = await cable.state();
    const can =
      CAN.trst |
      CAN.measure |
      (controls?.reconfigure ? CAN.reconfigure : 0) |
      (controls?.power ? CAN.power : 0) |
      (line ? CAN.line : 0);
    const text = [...name.slice(0, NAME_BYTES).padEnd(NAME_BYTES, '\0')].map((letter) => letter.charCodeAt(0) & 0x7f);
    return [...number(can, 2), ...number(Math.ceil(leastHz), 4), ...number(mostHz, 4), ...text];
  }

  /** A walk through states, a shift, or both: TMS 0 all the way, or 1 on the last cycle alone, where TDI is given. */
  async #cycles(request: Uint8Array): Promise<Uint8Array> {
    const count = (request[1] ?? 0) + 1;
    const bytes = (count + 7) >> 3;
    const flags = request[2] ?? 0;
    const tms = flags & 1 ? request.subarray(3, 3 + bytes) : null;
    const tdi = flags & 2 ? request.subarray(request.length - bytes) : new Uint8Array(bytes).fill(0xff);
    const firstOne = tms === null ? -1 : Array.from({ length: count }, (_, i) => getBit(tms, i)).indexOf(1);
    const isShift = firstOne < 0 || firstOne === count - 1;
    const op: CableOp =
      tms && !isShift ? { kind: 'tms', count, tms } : { kind: 'shift', count, tdi, capture: true, exit: firstOne >= 0 };
    const [answer] = await this.#target.cable.run([op]);
    return answer ?? new Uint8Array(bytes);
  }

  async #set(pin: number, level: number): Promise<void> {
    const { cable, controls, line } = this.#target;
    if (pin === PIN.trst) await cable.run([{ kind: 'trst', asserted: level === LOW }]);
    else if (pin === PIN.power) await controls?.power?.(level === HIGH);
    else if (pin === PIN.reconfigure && level === LOW) await controls?.reconfigure?.();
    else if (pin === PIN.line && level === LOW) await line?.holdLow(LONGEST_BREAK_MILLISECONDS);
  }
}

const number = (value: number, bytes: number): number[] =>
  Array.from({ length: bytes }, (_, i) => Math.floor(value / 2 ** (8 * i)) & 0xff);
