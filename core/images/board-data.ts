import { own } from '../lists.ts';
import Papa from 'papaparse';
import { separatorOf } from '../cells.ts';
import { z } from 'zod';
import { crc32 } from '../bits/index.ts';
import { fail, ok, type Problem, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';

const NUMBERS = {
  u8: [1, 0, 0xff],
  u16: [2, 0, 0xffff],
  u32: [4, 0, 0xffffffff],
  i16: [2, -0x8000, 0x7fff],
  i32: [4, -0x80000000, 0x7fffffff],
} as const;
const FLOAT_BYTES = 4;
const CRC_BYTES = 4;

export const FIELD_TYPES = ['text', 'hex', 'u8', 'u16', 'u32', 'i16', 'i32', 'f32'] as const;

/**
 * One value that differs from board to board. `length` is in bytes and belongs to `text` (filled with zeros) and `hex`.
 */
export const dataField = z
  .object({
    name: z.string().min(1).max(60),
    type: z.enum(FIELD_TYPES),
    length: z.number().int().min(1).max(4096).optional(),
    value: z.string().optional(),
  })
  .refine(
    ({ type, length }) => (type === 'text' || type === 'hex') === (length !== undefined),
    'text and hex fields need a length in bytes, the others have one already',
  );

export type DataField = z.infer<typeof dataField>;
type ByteOrder = 'little' | 'big';

/** By field name, as a person or a table gives them. */
export type DataValues = Readonly<Record<string, string>>;

const fieldBytes = ({ type, length }: DataField): number =>
  type === 'text' || type === 'hex' ? (length ?? 0) : type === 'f32' ? FLOAT_BYTES : NUMBERS[type][0];

/** Length of a block of data: its fields one behind the other, then their CRC. */
export const dataBytes = (fields: readonly DataField[]): number =>
  fields.reduce((sum, field) => sum + fieldBytes(field), CRC_BYTES);

/**
 * The block of one board: every field in order, then the CRC-32/ISO-HDLC of all of them, in the same byte order. A
 * field without a value has the one its description names.
 */
export function boardData(fields: readonly DataField[], byteOrder: ByteOrder, values: DataValues): Result<Uint8Array> {
  const bytes = new Uint8Array(dataBytes(fields));
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (const field of fields) {
    const text = (own(values, field.name) ?? field.value ?? '').trim();
    const wrong = put(view, at, field, text, byteOrder === 'little');
    if (wrong !== null) return fail(problem('board-data', { name: field.name, wrong }));
    at += fieldBytes(field);
  }
  view.setUint32(at, crc32(bytes.subarray(0, at)), byteOrder === 'little');
  return ok(bytes);
}

/** Writes one field; null, or what is wrong with its value. */
function put(view: DataView, at: number, field: DataField, text: string, little: boolean): string | null {
  if (text === '') return 'has no value';
  const room = fieldBytes(field);
  const { type } = field;
  switch (type) {
    case 'text': {
      const encoded = new TextEncoder().encode(text);
      if (encoded.length > room) return `takes ${room} bytes of text, "${text}" has ${encoded.length}`;
      for (const [i, byte] of encoded.entries()) view.setUint8(at + i, byte);
      return null;
    }
    case 'hex': {
      const digits = text.replace(/[\s:-]/g, '');
      if (!/^[0-9a-fA-F]*$/.test(digits) || digits.length !== room * 2)
        return `takes ${room * 2} hexadecimal digits, not "${text}"`;
      for (let i = 0; i < room; i++) view.setUint8(at + i, Number.parseInt(digits.slice(i * 2, i * 2 + 2), 16));
      return null;
    }
    case 'f32': {
      const value = Number(text);
      if (!Number.isFinite(value)) return `takes a number, not "${text}"`;
      view.setFloat32(at, value, little);
      return null;
    }
    default: {
      const [bytes, least, most] = NUMBERS[type];
      const value = Number(text);
      if (!Number.isInteger(value) || value < least || value > most)
        return `takes a whole number from ${least} to ${most}, not "${text}"`;
      for (let i = 0; i < bytes; i++) view.setUint8(at + (little ? i : bytes - 1 - i), (value >> (8 * i)) & 0xff);
      return null;
    }
  }
}

/**
 * Rows of a table with one board a line; its first line names the fields. Problems carry the line, counted from 1.
 *
 * @source RFC 4180 for commas and quotes; semicolons and tabs are taken too
 */
export function boardRows(fields: readonly DataField[], text: string, name = 'table'): Result<readonly DataValues[]> {
  const { data, meta, errors } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    delimiter: separatorOf(text),
    skipEmptyLines: 'greedy',
    transformHeader: (header) => header.trim(),
  });
  const refuse = (line: number, message: string, ...tryNext: string[]): Result<never, Problem> =>
    fail({
      ...plainProblem('board-table', `${name}, line ${line}: ${message}`, ...tryNext),
      place: { file: name, line, column: 1 },
    });
  const [bad] = errors.filter((error) => error.type !== 'Delimiter');
  if (bad)
    return refuse((bad.row ?? 0) + 2, `${bad.message}.`, 'Give every line as many values as the first line has names.');
  const headers = meta.fields ?? [];
  const missing = fields.find((field) => field.value === undefined && !headers.includes(field.name));
  if (missing)
    return refuse(
      1,
      `There is no column "${missing.name}".`,
      `Name the columns ${fields.map((field) => field.name).join(', ')}.`,
    );
  const extra = headers.find((header) => !fields.some((field) => field.name === header));
  if (extra !== undefined)
    return refuse(
      1,
      `The column "${extra}" is no field of the block.`,
      `The fields are ${fields.map((field) => field.name).join(', ')}.`,
    );
  for (const [i, row] of data.entries()) {
    const built = boardData(fields, 'little', row);
    if (!built.ok) return refuse(i + 2, built.error.message);
  }
  return data.length === 0 ? refuse(2, 'The table has no line with values.') : ok(data);
}
