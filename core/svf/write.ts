import { type Bits, bitsFromBigInt } from '../bits/index.ts';
import { byteAt, item } from '../lists.ts';

const LINE_DIGITS = 100;

/** What TDO must be: `care` picks the bits that count; null for all of them. */
interface SvfExpected {
  readonly tdo: Bits;
  readonly care: Bits | null;
}

/**
 * Writes a file command by command, in pieces as they come, so that a long one need not be held. Scans address one
 * device; `pad` says what lies around it.
 *
 * @source Serial Vector Format specification, revision E
 */
export class SvfWriter {
  readonly #take: (text: string) => void;

  constructor(take: (text: string) => void) {
    this.#take = take;
  }

  comment(text: string): void {
    for (const line of text.split('\n')) this.#take(`! ${line}\n`);
  }

  /** Devices around the addressed one, in BYPASS: bits of their instruction registers and how many they are. */
  pad(
    towardsTdo: { readonly irBits: number; readonly devices: number },
    towardsTdi: { readonly irBits: number; readonly devices: number },
  ): void {
    const ones = (bits: number): string =>
      bits === 0 ? '0' : `${bits} TDI (${((1n << BigInt(bits)) - 1n).toString(16).toUpperCase()})`;
    const zeros = (bits: number): string => (bits === 0 ? '0' : `${bits} TDI (0)`);
    this.#take('TRST OFF;\nENDIR IDLE;\nENDDR IDLE;\nSTATE RESET;\nSTATE IDLE;\n');
    this.#take(
      `HIR ${ones(towardsTdo.irBits)};\nTIR ${ones(towardsTdi.irBits)};\nHDR ${zeros(towardsTdo.devices)};\nTDR ` +
        `${zeros(towardsTdi.devices)};\n`,
    );
  }

  instruction(opcode: number | bigint, length: number): void {
    this.#take(`SIR ${length} TDI (${digits(bitsFromBigInt(BigInt(opcode), length))});\n`);
  }

  data(tdi: Bits, expected: SvfExpected | null = null): void {
    this.#take(`SDR ${tdi.length} TDI (${wrapped(tdi)})`);
    if (expected) {
      this.#take(`\n TDO (${wrapped(expected.tdo)})`);
      if (expected.care) this.#take(`\n MASK (${wrapped(expected.care)})`);
    }
    this.#take(';\n');
  }

  /** Waits in Run-Test/Idle: clocks, or a time in microseconds. */
  wait({ clocks = 0, microseconds = 0 }: { readonly clocks?: number; readonly microseconds?: number }): void {
    const parts = [
      clocks > 0 ? `${clocks} TCK` : '',
      microseconds > 0 ? `${(microseconds / 1e6).toExponential(3).toUpperCase()} SEC` : '',
    ].filter(Boolean);
    if (parts.length > 0) this.#take(`RUNTEST IDLE ${parts.join(' ')};\n`);
  }

  reset(): void {
    this.#take('STATE RESET;\n');
  }
}

const HEX = '0123456789ABCDEF';

/** As many digits as the length needs, most significant first. */
function digits({ length, bytes }: Bits): string {
  const count = Math.max(1, Math.ceil(length / 4));
  const out: string[] = [];
  for (let i = count - 1; i >= 0; i--) out.push(item(HEX, (byteAt(bytes, i >>> 1) >>> (i & 1 ? 4 : 0)) & 15));
  return out.join('');
}

function wrapped(bits: Bits): string {
  const text = digits(bits);
  if (text.length <= LINE_DIGITS) return text;
  const lines: string[] = [];
  for (let at = 0; at < text.length; at += LINE_DIGITS) lines.push(text.slice(at, at + LINE_DIGITS));
  return lines.join('\n');
}
