import type { SerialTrouble } from './receiver.ts';

/** What ends a line that is sent. */
export const LINE_ENDS = { none: '', lf: '\n', cr: '\r', 'cr-lf': '\r\n' } as const;

const CONTROL_PICTURES = 0x2400;
const DELETE = 0x7f;
const DELETE_PICTURE = 0x2421;
/** Stands for what has no picture. */
const UNPRINTED = 0xfffd;

const strict = new TextDecoder('utf-8', { fatal: true });

/**
 * Bytes as text: UTF-8 where they are that, else Latin-1. With `controls`, characters that print nothing are shown by
 * their pictures (Unicode 2400 to 2421), else they are left out.
 */
export function readable(bytes: Uint8Array, controls: boolean): string {
  let text: string;
  try {
    text = strict.decode(bytes);
  } catch {
    text = Array.from(bytes, (byte) => String.fromCharCode(byte)).join('');
  }
  return Array.from(text, (char) => {
    const code = char.charCodeAt(0);
    if (code >= 0x20 && code !== DELETE && (code < 0x80 || code > 0x9f)) return char;
    if (!controls) return char === '\t' ? '\t' : '';
    if (code < 0x20) return String.fromCharCode(CONTROL_PICTURES + code);
    return String.fromCharCode(code === DELETE ? DELETE_PICTURE : UNPRINTED);
  }).join('');
}

/** Two digits a byte, a space between them. */
export const hexOf = (bytes: Uint8Array): string =>
  Array.from(bytes, (byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');

/** Bytes of hexadecimal digits, with or without spaces, commas and 0x; null where it is none, or a digit is left over. */
export function bytesOfHex(text: string): Uint8Array | null {
  const digits = text
    .replace(/0x/gi, ' ')
    .replace(/[\s,]+/g, ' ')
    .trim();
  if (!/^[0-9a-f ]*$/i.test(digits)) return null;
  const words = digits === '' ? [] : digits.split(' ');
  const pairs = words.flatMap((word) => (word.length === 1 ? [word] : (word.match(/../g) ?? [])));
  if (words.some((word) => word.length > 1 && word.length % 2 === 1)) return null;
  return Uint8Array.from(pairs, (pair) => Number.parseInt(pair, 16));
}

/** What a frame has wrong, in words. */
export const troubleWords = (trouble: SerialTrouble): string =>
  ({
    framing: 'no stop bit: wrong speed, or not a frame',
    parity: 'wrong parity',
    break: 'break: the line stays at 0',
  })[trouble];

/** Looks for a text in bytes as they come, in whatever pieces. */
export class TextWatch {
  readonly #wanted: Uint8Array;
  #last: number[] = [];

  constructor(text: string) {
    this.#wanted = new TextEncoder().encode(text);
  }

  /** Whether it has come with these bytes. */
  feed(bytes: Uint8Array): boolean {
    const all = [...this.#last, ...bytes];
    const { length } = this.#wanted;
    for (let at = 0; at + length <= all.length; at++)
      if (this.#wanted.every((byte, i) => all[at + i] === byte)) return true;
    this.#last = length > 1 ? all.slice(-(length - 1)) : [];
    return false;
  }
}
