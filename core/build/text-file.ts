import { fail, ok, problem, type Result } from '../result.ts';

/** The longest line of a source that is taken; longer ones are data, not text. */
const LONGEST_LINE = 1_000_000;

/** Bytes of a source as text. Sources are UTF-8; a byte order mark is dropped, UTF-16 is told by its own. */
export function decodeText(name: string, bytes: Uint8Array): Result<string> {
  const [a, b] = bytes;
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff)) return fail(problem('encoding', `${name} is UTF-16 text.`, 'Save it as UTF-8 in your editor.'));
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    const { at, line } = firstBadByte(bytes);
    return fail({ ...problem('encoding', `${name}, line ${line}: the byte 0x${(bytes[at] ?? 0).toString(16).padStart(2, '0')} is not UTF-8 text.`, 'Save the file as UTF-8 in your editor; it is probably in an older 8-bit encoding.'), place: { file: name, line, column: 1 } });
  }
  if (text.includes('\u0000')) return fail(problem('encoding', `${name} contains zero bytes: it is no text.`, 'Leave it out of the sources.'));
  const long = text.split('\n').findIndex((line) => line.length > LONGEST_LINE);
  if (long >= 0) return fail({ ...problem('long-line', `${name}, line ${long + 1}: the line is longer than ${LONGEST_LINE} characters.`, 'Divide it; memory contents belong in a file of their own, one word a line.'), place: { file: name, line: long + 1, column: 1 } });
  return ok(text.replace(/\r\n?/g, '\n'));
}

/** Found by halves: everything before the first bad byte decodes. */
function firstBadByte(bytes: Uint8Array): { at: number; line: number } {
  let at = 0;
  let line = 1;
  const decoder = new TextDecoder('utf-8', { fatal: true });
  while (at < bytes.length) {
    const byte = bytes[at] as number;
    const size = byte < 0x80 ? 1 : byte >= 0xf0 ? 4 : byte >= 0xe0 ? 3 : 2;
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
