import { numberAt } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** One way to erase. Times in microseconds. */
export interface EraseType {
  readonly command: number;
  readonly bytes: number;
  readonly typical: number;
  readonly worst: number;
}

/** What a chip's own parameter table says. Times in microseconds; null where the table is too old to say. */
export interface FlashParameters {
  readonly revision: string;
  readonly bytes: number;
  readonly addressBytes: '3' | '3 or 4' | '4';
  readonly erases: readonly (Omit<EraseType, 'typical' | 'worst'> & {
    readonly typical: number | null;
    readonly worst: number | null;
  })[];
  readonly page: { readonly bytes: number; readonly typical: number; readonly worst: number } | null;
  readonly chipErase: number | null;
}

const SIGNATURE = [0x53, 0x46, 0x44, 0x50];
const HEADER_BYTES = 8;
const BASIC_ID = 0xff00;
const ERASE_UNITS = [1_000, 16_000, 128_000, 1_000_000] as const;
const CHIP_UNITS = [16_000, 256_000, 4_000_000, 64_000_000] as const;

/** Where the basic table lies, from the first header; `headers` is what was read from address 0 on. */
export function basicTablePlace(
  headers: Uint8Array,
): Result<{ readonly address: number; readonly words: number; readonly revision: string }> {
  if (!SIGNATURE.every((byte, i) => headers[i] === byte)) return fail(problem('no-sfdp'));
  const count = (headers[6] ?? 0) + 1;
  for (let i = 0; i < count; i++) {
    const at = HEADER_BYTES * (1 + i);
    const [low = 0, minor = 0, major = 0, words = 0, a = 0, b = 0, c = 0, high = 0] = headers.subarray(
      at,
      at + HEADER_BYTES,
    );
    if (((high << 8) | low) === BASIC_ID && words >= 9)
      return ok({ address: a | (b << 8) | (c << 16), words, revision: `${major}.${minor}` });
  }
  return fail(problem('no-sfdp (basicTablePlace)'));
}

/**
 * The basic flash parameter table. `words` are its 32-bit words, the first one at index 0.
 *
 * @source JEDEC JESD216, basic flash parameter table: word 2 density, words 8 and 9 erase types, word 10 erase times,
 * word 11 page and program times
 */
export function readParameters(words: readonly number[], revision: string): FlashParameters {
  const word = (n: number): number => words[n - 1] ?? 0;
  const field = (n: number, high: number, low: number): number => (word(n) >>> low) & (2 ** (high - low + 1) - 1);
  const density = word(2);
  const bits = density & 0x80000000 ? 2 ** (density & 0x7fffffff) : (density >>> 0) + 1;
  const timed = words.length >= 11;
  const eraseFactor = 2 * (field(10, 3, 0) + 1);
  const erases = [0, 1, 2, 3].flatMap((type) => {
    const n = 8 + (type >> 1);
    const low = (type & 1) * 16;
    const size = field(n, low + 7, low);
    if (size === 0) return [];
    const at = 4 + type * 7;
    const typical = timed ? (field(10, at + 4, at) + 1) * numberAt(ERASE_UNITS, field(10, at + 6, at + 5)) : null;
    return [
      {
        command: field(n, low + 15, low + 8),
        bytes: 2 ** size,
        typical,
        worst: typical === null ? null : typical * eraseFactor,
      },
    ];
  });
  const pageTypical = (field(11, 12, 8) + 1) * (field(11, 13, 13) ? 64 : 8);
  return {
    revision,
    bytes: bits / 8,
    addressBytes: (['3', '3 or 4', '4', '4'] as const)[field(1, 18, 17)] as FlashParameters['addressBytes'],
    erases: erases.sort((a, b) => a.bytes - b.bytes),
    page: timed
      ? { bytes: 2 ** field(11, 7, 4), typical: pageTypical, worst: pageTypical * 2 * (field(11, 3, 0) + 1) }
      : null,
    chipErase: timed ? (field(11, 28, 24) + 1) * numberAt(CHIP_UNITS, field(11, 30, 29)) : null,
  };
}
