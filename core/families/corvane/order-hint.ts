import { reverseByte } from '../../bits/index.ts';
import { START_WORD } from './stream.ts';

/**
 * How the bytes of a file stand against those of a stream. `swap` is the word size in bytes whose order is turned
 * round.
 */
type ByteArrangement = { readonly kind: 'reversed-bits' } | { readonly kind: 'swapped-bytes'; readonly swap: 2 | 4 };

const SEARCH_BYTES = 4096;
const START = [START_WORD >>> 24, (START_WORD >>> 16) & 0xff, (START_WORD >>> 8) & 0xff, START_WORD & 0xff];

/**
 * Whether the start word stands at the beginning in another bit or byte order; null where it stands as it should, or
 * not at all.
 */
function arrangementOf(bytes: Uint8Array): ByteArrangement | null {
  const head = bytes.subarray(0, SEARCH_BYTES);
  const [a = 0, b = 0, c = 0, d = 0] = START;
  if (has(head, START)) return null;
  if (has(head, START.map(reverseByte))) return { kind: 'reversed-bits' };
  if (has(head, [b, a, d, c])) return { kind: 'swapped-bytes', swap: 2 };
  if (has(head, [d, c, b, a])) return { kind: 'swapped-bytes', swap: 4 };
  return null;
}

const has = (bytes: Uint8Array, wanted: readonly number[]): boolean =>
  bytes.some((_, i) => wanted.every((byte, k) => bytes[i + k] === byte));

/** What to do about a stream in another bit or byte order, in a sentence; null where it is none. */
export function misordered(bytes: Uint8Array): string | null {
  const found = arrangementOf(bytes);
  if (!found) return null;
  return found.kind === 'reversed-bits'
    ? 'It is a configuration stream with the bits of every byte in the other order: convert it with --reverse-bits.'
    : `It is a configuration stream with the bytes of every ${found.swap === 2 ? '16' : '32'}-bit word in the ` +
        `other order: convert it with --swap-bytes ${found.swap}.`;
}
