import { byteAt } from '../lists.ts';
import { ImageBuilder } from './builder.ts';
import type { ImageReading, MemoryImage } from './image.ts';
import { Complaints, forEachLine, hex, readDigits, recordRoom, RecordWriter } from './text-records.ts';

const COLON = 0x3a;
const RECORD_BYTES = 16;
const LENGTHS: Readonly<Record<number, number>> = { 1: 0, 2: 2, 3: 4, 4: 2, 5: 4 };

/**
 * Reads Intel HEX. Records of segment addresses wrap within their 64 KiB, those of linear addresses do not.
 *
 * @source Intel hexadecimal object file format specification, revision A (1988)
 */
export function readIntelHex(file: Uint8Array): ImageReading {
  const complaints = new Complaints();
  const builder = new ImageBuilder();
  const record = recordRoom();
  let base = 0;
  let segmented = false;
  let ended = 0;
  let lines = 0;
  forEachLine(file, (from, to, line) => {
    lines = line;
    if (ended) {
      complaints.error(
        line,
        'after-end',
        `There is more behind the end record of line ${ended}, which ends the file: two files may have been put ` +
          'together.',
      );
      return false;
    }
    if (file[from] !== COLON) {
      complaints.error(line, 'no-record', 'A record begins with a colon.');
      return true;
    }
    if (!isWhole(file, from + 1, to, record, { line, complaints })) return true;
    const length = byteAt(record, 0);
    const type = byteAt(record, 3);
    const offset = (byteAt(record, 1) << 8) | byteAt(record, 2);
    const word = (byteAt(record, 4) << 8) | byteAt(record, 5);
    if (type !== 0 && LENGTHS[type] !== undefined && LENGTHS[type] !== length)
      complaints.error(line, 'length', `A record of type ${type} has ${LENGTHS[type]} bytes of data, not ${length}.`);
    switch (type) {
      case 0: {
        const whole = segmented ? Math.min(length, 0x10000 - offset) : length;
        builder.add(base + offset, record, 4, whole, line);
        if (whole < length) builder.add(base, record, 4 + whole, length - whole, line);
        return true;
      }
      case 1:
        ended = line;
        return true;
      case 2:
        base = word * 16;
        segmented = true;
        return true;
      case 4:
        base = word * 0x10000;
        segmented = false;
        return true;
      case 3:
      case 5:
        return true;
      default:
        complaints.error(line, 'type', `There is no record of type ${hex(type, 2)}.`);
        return true;
    }
  });
  if (!ended) complaints.error(lines, 'no-end', 'The end record (:00000001FF) is missing: the file may be cut short.');
  const { image, overlaps, tooMany } = builder.finish();
  for (const overlap of overlaps) complaints.overlap(overlap);
  if (tooMany !== null) complaints.stretches(tooMany);
  return {
    format: 'intel-hex',
    image,
    problems: complaints.list,
    valid: complaints.list.every((problem) => problem.severity !== 'error'),
  };
}

/**
 * Reads the digits of a record into `record`; false, with a complaint, when it is no record. A wrong check sum is told,
 * and the record is taken all the same.
 */
function isWhole(
  file: Uint8Array,
  from: number,
  to: number,
  record: Uint8Array,
  { line, complaints }: { readonly line: number; readonly complaints: Complaints },
): boolean {
  const count = readDigits(file, from, to, record);
  if (count < 5) {
    complaints.error(
      line,
      'digits',
      count < 0
        ? 'The record holds something else than pairs of hexadecimal digits.'
        : 'The record is cut short: it has at least five bytes.',
    );
    return false;
  }
  const length = byteAt(record, 0);
  if (count !== length + 5) {
    complaints.error(line, 'length', `The record says ${length} bytes of data and holds ${count - 5}.`);
    return false;
  }
  let sum = 0;
  for (let i = 0; i < count; i++) sum += byteAt(record, i);
  if (sum & 0xff) {
    const should = (byteAt(record, count - 1) - sum) & 0xff;
    complaints.error(
      line,
      'checksum',
      `The check sum is ${hex(byteAt(record, count - 1), 2)}, it should be ${hex(should, 2)}: a digit of this ` +
        'line is wrong.',
    );
  }
  return true;
}

/**
 * Sixteen bytes a record, linear addresses where 64 KiB do not reach. Null where an address needs more than 32 bits.
 */
export function writeIntelHex({ segments }: MemoryImage): Uint8Array | null {
  const out = new RecordWriter();
  let upper = 0;
  const record = (type: number, address: number, bytes: Uint8Array, from: number, to: number) => {
    const head = Uint8Array.of(to - from, (address >> 8) & 0xff, address & 0xff, type);
    let sum = head.reduce((a, b) => a + b, 0);
    for (let i = from; i < to; i++) sum += byteAt(bytes, i);
    out.text(':');
    out.digits(head, 0, 4);
    out.digits(bytes, from, to);
    out.digits(Uint8Array.of(-sum & 0xff), 0, 1);
    out.text('\n');
  };
  for (const { start, bytes } of segments) {
    if (start + bytes.length > 2 ** 32) return null;
    for (let at = 0; at < bytes.length; ) {
      const address = start + at;
      const high = Math.floor(address / 0x10000);
      if (high !== upper) {
        upper = high;
        record(4, 0, Uint8Array.of(high >> 8, high & 0xff), 0, 2);
      }
      const count = Math.min(RECORD_BYTES - (address % RECORD_BYTES), bytes.length - at);
      record(0, address & 0xffff, bytes, at, at + count);
      at += count;
    }
  }
  out.text(':00000001FF\n');
  return out.done;
}
