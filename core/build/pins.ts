import type { Messages } from '../hdl/index.ts';

/** One line of a pin table: a port, or one bit of it as `port[3]`, on a package pin. */
export interface PinRow {
  readonly port: string;
  readonly bit: number;
  readonly pin: string;
  readonly line: number;
}

const PORT = /^([A-Za-z_][\w$]*)(?:\[(\d+)\])?$/;

/** Reads a pin table: a header `port,pin`, then a line for each bit. `#` begins a comment line. docs/formats.md, section 5 */
export function parsePins(file: string, text: string, messages: Messages): PinRow[] {
  const rows: PinRow[] = [];
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#') || /^port\s*,\s*pin\s*$/i.test(line)) continue;
    const at = { file, line: i + 1, column: 1 };
    const [port = '', pin = '', ...more] = line.split(',').map((cell) => cell.trim());
    const match = PORT.exec(port);
    if (!match || pin === '' || more.length > 0) messages.error('pin-line', at, `"${line}" is no pin line. Write port,pin or port[bit],pin.`);
    else rows.push({ port: match[1] as string, bit: Number(match[2] ?? 0), pin, line: i + 1 });
  }
  return rows;
}

export const writePins = (rows: readonly { readonly name: string; readonly pin: string }[]): string => `port,pin\n${rows.map(({ name, pin }) => `${name},${pin}\n`).join('')}`;
