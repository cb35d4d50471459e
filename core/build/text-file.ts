import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { counted } from '../words.ts';

const VERILOG = /\.s?vh?$/i;

/** The longest line of a source that is taken; longer ones are data, not text. */
const LONGEST_LINE = 1_000_000;

interface TextRead {
  readonly text: string;
  /** What was taken although it is not as it should be. */
  readonly remark: string | null;
}

/**
 * Bytes of a source as text. Sources are UTF-8; a byte order mark is dropped, UTF-16 is told by its own. Bytes that are
 * not UTF-8 are taken as Latin-1 in comments of Verilog, where they change nothing, with a remark.
 */
export function decodeText(name: string, bytes: Uint8Array): Result<TextRead> {
  const [a, b] = bytes;
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff)) return fail(problem('encoding (utf-16)', { name }));
  let text: string;
  let remark: string | null = null;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    const { at, line } = firstBadByte(bytes);
    const mixed = VERILOG.test(name) ? decodeMixed(bytes) : null;
    if (!mixed || !areInComments(mixed.text, mixed.odd))
      return fail({
        ...problem('encoding (not utf-8)', { name, line, byte: (bytes[at] ?? 0).toString(16).padStart(2, '0') }),
        place: { file: name, line, column: 1 },
      });
    text = mixed.text;
    const more = mixed.odd.length - 1;
    remark =
      `${name}, line ${line}: the byte 0x${(bytes[at] ?? 0).toString(16).padStart(2, '0')} in a comment is not ` +
      'UTF-8 and was read as ' +
      `Latin-1${more > 0 ? `, and so were ${counted(more, 'byte')} in comments after it` : ''}.`;
  }
  if (text.includes('\u0000')) return fail(problem('encoding (zero bytes)', { name }));
  const long = text.split('\n').findIndex((line) => line.length > LONGEST_LINE);
  if (long >= 0)
    return fail({
      ...problem('long-line', { name, line: long + 1, most: LONGEST_LINE }),
      place: { file: name, line: long + 1, column: 1 },
    });
  return ok({ text: text.replace(/\r\n?/g, '\n'), remark });
}

/** UTF-8, and every byte that is none as Latin-1; `odd` are the places of those in the text. */
function decodeMixed(bytes: Uint8Array): { readonly text: string; readonly odd: readonly number[] } {
  const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  const latin1 = new TextDecoder('latin1');
  const odd: number[] = [];
  let text = '';
  for (let at = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0; at < bytes.length; ) {
    const size = sizeOf(item(bytes, at));
    try {
      text += utf8.decode(bytes.subarray(at, at + size));
      at += size;
    } catch {
      odd.push(text.length);
      text += latin1.decode(bytes.subarray(at, at + 1));
      at++;
    }
  }
  return { text, odd };
}

/** Whether all these places lie in comments (IEEE 1364-2005, 3.3), outside strings (3.6). */
function areInComments(text: string, places: readonly number[]): boolean {
  const comments = /"(?:\\[\s\S]|[^"\\\n])*"|\/\/[^\n]*|\/\*[\s\S]*?\*\//g;
  const spans = [...text.matchAll(comments)]
    .filter(([found]) => found.startsWith('/'))
    .map(({ index, 0: found }) => [index, index + found.length] as const);
  return places.every((place) => spans.some(([from, to]) => place >= from && place < to));
}

/** Bytes of the UTF-8 sequence that begins so. */
const sizeOf = (byte: number): number => (byte < 0x80 ? 1 : byte >= 0xf0 ? 4 : byte >= 0xe0 ? 3 : 2);

/** Everything before the first bad byte decodes. */
function firstBadByte(bytes: Uint8Array): { at: number; line: number } {
  let at = 0;
  let line = 1;
  const decoder = new TextDecoder('utf-8', { fatal: true });
  while (at < bytes.length) {
    const byte = item(bytes, at);
    const size = sizeOf(byte);
    if (byte === 0x0a) line++;
    if (size > 1) {
      try {
        decoder.decode(bytes.subarray(at, at + size));
      } catch {
        return { at, line };
      }
    }
    at += size;
  }
  return { at: bytes.length - 1, line };
}
