// A flash chip on its four pins, without a JTAG chain in front of it.
import type { FlashChip } from '../../bench/flash-chip.ts';
import type { SpiPort } from '../../core/flash/index.ts';

/** Bytes of every command in order are kept in `sent`. `pass` lets simulated time go by. */
export class DirectSpi implements SpiPort {
  readonly sent: Uint8Array[] = [];
  readonly #chip: FlashChip;
  readonly #pass: (microseconds: number) => void;

  constructor(chip: FlashChip, pass: (microseconds: number) => void) {
    this.#chip = chip;
    this.#pass = pass;
  }

  send(bytes: Uint8Array): void {
    this.sent.push(bytes);
    this.#talk(bytes, 0);
  }

  async exchange(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    return this.#talk(command, answerBytes);
  }

  wait(microseconds: number): void {
    this.#pass(microseconds);
  }

  async flush(): Promise<void> {}

  countSent(): void {}

  readonly bitsPerSecond = 10e6;

  later(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    return this.exchange(command, answerBytes);
  }

  #talk(command: Uint8Array, answerBytes: number): Uint8Array {
    const clocked = (byte: number) => {
      let answer = 0;
      for (let bit = 7; bit >= 0; bit--) answer = (answer << 1) | this.#chip.clock((byte >>> bit) & 1);
      return answer;
    };
    this.#chip.select();
    for (const byte of command) clocked(byte);
    const answer = Uint8Array.from({ length: answerBytes }, () => clocked(0));
    this.#chip.deselect();
    return answer;
  }
}
