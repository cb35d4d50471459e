import type { BenchFile } from './bench-file.ts';
import type { SetPin } from './serial-port.ts';

type Wiring = BenchFile['board']['keyboards'][number];

/** Half a period of its clock, in microseconds: 12.5 kHz. (Common practice: 10 to 16.7 kHz.) */
const HALF_CLOCK = 40;
const BETWEEN_FRAMES = 200;
const RELEASED = 0xf0;
const EXTENDED = 0xe0;

const inRow = (names: string, codes: string): readonly (readonly [string, readonly number[]])[] => {
  const all = codes.split(' ');
  return names.split(' ').map((name, i) => [name, [Number.parseInt(all[i] ?? '0', 16)]] as const);
};

/** Codes that a key sends when it goes down. (Common practice; values from memory.) */
const KEY_CODES: ReadonlyMap<string, readonly number[]> = new Map([
  ...inRow('A B C D E F G H I J K L M', '1C 32 21 23 24 2B 34 33 43 3B 42 4B 3A'),
  ...inRow('N O P Q R S T U V W X Y Z', '31 44 4D 15 2D 1B 2C 3C 2A 1D 22 35 1A'),
  ...inRow('0 1 2 3 4 5 6 7 8 9', '45 16 1E 26 25 2E 36 3D 3E 46'),
  ...inRow('Enter Space Backspace Tab Esc Shift Ctrl Alt', '5A 29 66 0D 76 12 14 11'),
  ...inRow(', . - / ;', '41 49 4E 4A 4C'),
  ...inRow('Up Down Left Right', '75 72 6B 74').map(([name, code]) => [name, [EXTENDED, ...code]] as const),
]);

/**
 * A keyboard on two wires that it drives itself: eleven bits a code, a 0, eight bits lowest first, odd parity, a 1,
 * each to be read when the clock falls. A key that is let go sends F0 before its code. (Common practice.) Times in
 * microseconds.
 */
export class Keyboard {
  readonly #wiring: Wiring;
  readonly #down = new Set<string>();
  /** Changes to come. */
  #changes: { readonly at: number; readonly pin: string; readonly level: boolean }[] = [];
  readonly #levels = new Map<string, boolean>();
  #free = 0;
  readonly #now: () => number;

  constructor(wiring: Wiring, now: () => number) {
    this.#wiring = wiring;
    this.#now = now;
  }

  get name(): string {
    return this.#wiring.name;
  }

  get pins(): readonly string[] {
    return [this.#wiring.clock, this.#wiring.data];
  }

  external(pin: string): boolean | null {
    return this.pins.includes(pin) ? (this.#levels.get(pin) ?? true) : null;
  }

  get view(): { readonly name: string; readonly label: string; readonly keys: string[]; readonly down: string[] } {
    const { name, label } = this.#wiring;
    return { name, label: label ?? name, keys: [...KEY_CODES.keys()], down: [...this.#down] };
  }

  /** A key goes down or up; false where it has no such key. A key that is held repeats nothing. */
  press(key: string, isDown: boolean): boolean {
    const code = KEY_CODES.get(key);
    if (!code) return false;
    if (isDown === this.#down.has(key)) return true;
    if (isDown) this.#down.add(key);
    else this.#down.delete(key);
    const bytes = isDown ? code : [...code.slice(0, -1), RELEASED, ...code.slice(-1)];
    for (const byte of bytes) this.#send(byte);
    return true;
  }

  #send(byte: number): void {
    const data = Array.from({ length: 8 }, (_, bit) => (byte >>> bit) & 1);
    const odd = data.reduce((sum, bit) => sum ^ bit, 1);
    let at = Math.max(this.#free, this.#now() + BETWEEN_FRAMES);
    for (const bit of [0, ...data, odd, 1]) {
      this.#changes.push({ at, pin: this.#wiring.data, level: bit === 1 });
      this.#changes.push({ at: at + HALF_CLOCK / 2, pin: this.#wiring.clock, level: false });
      this.#changes.push({ at: at + (3 * HALF_CLOCK) / 2, pin: this.#wiring.clock, level: true });
      at += 2 * HALF_CLOCK;
    }
    this.#free = at + BETWEEN_FRAMES;
  }

  get nextLook(): number {
    return this.#changes[0]?.at ?? Number.POSITIVE_INFINITY;
  }

  look(now: number, set: SetPin): void {
    for (let next = this.#changes[0]; next && next.at <= now; next = this.#changes[0]) {
      this.#changes.shift();
      this.#levels.set(next.pin, next.level);
      set(next.pin, next.level);
    }
  }
}
