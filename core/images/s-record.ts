import { byteAt, numberAt } from '../lists.ts';
import { ImageBuilder } from './builder.ts';
import { imageEnd, type ImageReading, type MemoryImage } from './image.ts';
import { Complaints, forEachLine, hex, readDigits, recordRoom, RecordWriter } from './text-records.ts';

const S = 0x53;
const SMALL_S = 0x73;
const RECORD_BYTES = 16;
/** Bytes of the address field by kind of record. */
const ADDRESS = [2, 2, 3, 4, 0, 2, 3, 4, 3, 2] as const;

/**
 * @source Motorola S-record format, programmer's manual: kinds 0 to 9, check sum the ones' complement of count, address
 * and data
 */
export function readSRecord(file: Uint8Array): ImageReading {
  const complaints = new Complaints();
  const builder = new ImageBuilder();
  const record = recordRoom();
  let data = 0;
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
    const kind = (file[from + 1] ?? 0) - 0x30;
    if ((file[from] !== S && file[from] !== SMALL_S) || kind < 0 || kind > 9) {
      complaints.error(line, 'no-record', 'A record begins with S and a digit.');
      return true;
    }
    const count = readDigits(file, from + 2, to, record);
    const address = numberAt(ADDRESS, kind);
    if (kind === 4) {
      complaints.error(line, 'type', 'S4 is reserved.');
      return true;
    }
    if (count < address + 2) {
      complaints.error(
        line,
        'digits',
        count < 0 ? 'The record holds something else than pairs of hexadecimal digits.' : 'The record is cut short.',
      );
      return true;
    }
    if (record[0] !== count - 1) {
      complaints.error(line, 'length', `The record says ${record[0]} bytes and holds ${count - 1}.`);
      return true;
    }
    let sum = 0;
    for (let i = 0; i < count - 1; i++) sum += byteAt(record, i);
    const should = ~sum & 0xff;
    if (record[count - 1] !== should)
      complaints.error(
        line,
        'checksum',
        `The check sum is ${hex(byteAt(record, count - 1), 2)}, it should be ${hex(should, 2)}: a digit of this ` +
          'line is wrong.',
      );
    let place = 0;
    for (let i = 1; i <= address; i++) place = place * 256 + byteAt(record, i);
    if (kind >= 1 && kind <= 3) {
      builder.add(place, record, 1 + address, count - address - 2, line);
      data++;
    } else if ((kind === 5 || kind === 6) && place !== data)
      complaints.error(line, 'count', `The count record says ${place} records of data, there are ${data}.`);
    else if (kind >= 7) ended = line;
    return true;
  });
  if (!ended)
    complaints.warning(lines, 'no-end', 'The end record (S7, S8 or S9) is missing: the file may be cut short.');
  const { image, overlaps, tooMany } = builder.finish();
  for (const overlap of overlaps) complaints.overlap(overlap);
  if (tooMany !== null) complaints.stretches(tooMany);
  return {
    format: 's-record',
    image,
    problems: complaints.list,
    valid: complaints.list.every((problem) => problem.severity !== 'error'),
  };
}

/** The shortest kind of record that reaches the last address. Null where it needs more than 32 bits. */
export function writeSRecord(image: MemoryImage): Uint8Array | null {
  const end = imageEnd(image);
  if (end > 2 ** 32) return null;
  const kind = end <= 0x10000 ? 1 : end <= 0x1000000 ? 2 : 3;
  const out = new RecordWriter();
  let records = 0;
  const record = (type: number, place: number, bytes: Uint8Array, from: number, to: number) => {
    const width = numberAt(ADDRESS, type);
    const head = new Uint8Array(1 + width);
    head[0] = width + (to - from) + 1;
    for (let i = 0; i < width; i++) head[1 + i] = Math.floor(place / 256 ** (width - 1 - i)) & 0xff;
    let sum = head.reduce((a, b) => a + b, 0);
    for (let i = from; i < to; i++) sum += byteAt(bytes, i);
    out.text(`S${type}`);
    out.digits(head, 0, head.length);
    out.digits(bytes, from, to);
    out.digits(Uint8Array.of(~sum & 0xff), 0, 1);
    out.text('\n');
  };
  const none = new Uint8Array(0);
  record(0, 0, none, 0, 0);
  for (const { start, bytes } of image.segments)
    for (let at = 0; at < bytes.length; ) {
      const count = Math.min(RECORD_BYTES - ((start + at) % RECORD_BYTES), bytes.length - at);
      record(kind, start + at, bytes, at, at + count);
      at += count;
      records++;
    }
  if (records <= 0xffff) record(5, records, none, 0, 0);
  else if (records <= 0xffffff) record(6, records, none, 0, 0);
  record(10 - kind, 0, none, 0, 0);
  return out.done;
}
