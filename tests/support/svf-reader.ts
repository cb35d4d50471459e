// A second reader of SVF, written for the tests from the specification (revision E) and sharing nothing with the
// product's: text is split by regular expressions, numbers are big integers, every state is reached by spelled-out TMS
// bits.
import type { Cable } from '../../core/jtag/index.ts';

export interface ReadCommand {
  readonly name: string;
  readonly words: readonly string[];
  /** Vectors by name, as written without white space. */
  readonly vectors: Readonly<Record<string, string>>;
}

export function readSvf(text: string): ReadCommand[] {
  return text
    .replace(/(!|\/\/).*$/gm, '')
    .split(';')
    .map((part) => part.trim())
    .filter((part) => part !== '')
    .map((part) => {
      const vectors = Object.fromEntries(
        [...part.matchAll(/(\w+)\s*\(([^)]*)\)/g)].map(([, name = '', digits = '']) => [
          name.toUpperCase(),
          digits.replace(/\s/g, ''),
        ]),
      );
      const [name = '', ...words] = part
        .replace(/\w+\s*\([^)]*\)/g, ' ')
        .trim()
        .toUpperCase()
        .split(/\s+/);
      return { name, words, vectors };
    });
}

interface Pad {
  length: number;
  tdi: bigint;
}

/** Plays on a cable, TMS bit by TMS bit; returns how many vectors were compared. Throws at the first difference. */
export async function playSvf(text: string, cable: Cable): Promise<number> {
  const pads: Record<string, Pad> = {
    HDR: { length: 0, tdi: 0n },
    TDR: { length: 0, tdi: 0n },
    HIR: { length: 0, tdi: 0n },
    TIR: { length: 0, tdi: 0n },
  };
  let compared = 0;
  const tms = async (bits: string) => {
    const packed = new Uint8Array(Math.ceil(bits.length / 8));
    [...bits].forEach((bit, i) => {
      if (bit === '1') packed[i >> 3] = (packed[i >> 3] as number) | (1 << (i & 7));
    });
    await cable.run([{ kind: 'tms', count: bits.length, tms: packed }]);
  };
  await tms('111110');
  for (const { name, words, vectors } of readSvf(text)) {
    switch (name) {
      case 'TRST':
      case 'ENDIR':
      case 'ENDDR':
        if (name !== 'TRST' && words[0] !== 'IDLE')
          throw new Error(`this reader ends scans in IDLE only, not ${words[0]}`);
        break;
      case 'STATE':
        await tms(words.at(-1) === 'RESET' ? '11111' : '0');
        if (words.at(-1) === 'RESET') await tms('0');
        break;
      case 'RUNTEST': {
        const [, count, unit, ,] = words;
        const seconds = words[words.indexOf('SEC') - 1];
        if (unit === 'TCK') await cable.run([{ kind: 'clock', count: Number(count) }]);
        if (words.includes('SEC')) await cable.run([{ kind: 'wait', microseconds: Number(seconds) * 1e6 }]);
        break;
      }
      case 'HDR':
      case 'TDR':
      case 'HIR':
      case 'TIR':
        pads[name] = { length: Number(words[0]), tdi: BigInt(`0x${vectors.TDI ?? '0'}`) };
        break;
      case 'SDR':
      case 'SIR': {
        const length = Number(words[0]);
        const [head, tail] = name === 'SDR' ? [pads.HDR as Pad, pads.TDR as Pad] : [pads.HIR as Pad, pads.TIR as Pad];
        const all =
          head.tdi | (BigInt(`0x${vectors.TDI}`) << BigInt(head.length)) | (tail.tdi << BigInt(head.length + length));
        const count = head.length + length + tail.length;
        await tms(name === 'SDR' ? '100' : '1100');
        const [answer = new Uint8Array(0)] = await cable.run([
          { kind: 'shift', count, tdi: bytesOf(all, count), capture: true, exit: true },
        ]);
        await tms('10');
        if (vectors.TDO === undefined) break;
        compared++;
        const got = (numberOf(answer) >> BigInt(head.length)) & ((1n << BigInt(length)) - 1n);
        const mask = vectors.MASK === undefined ? (1n << BigInt(length)) - 1n : BigInt(`0x${vectors.MASK}`);
        if ((got & mask) !== (BigInt(`0x${vectors.TDO}`) & mask))
          throw new Error(`${name} ${length}: expected ${vectors.TDO}, got ${got.toString(16)}`);
        break;
      }
      default:
        throw new Error(`no command ${name}`);
    }
  }
  return compared;
}

function bytesOf(value: bigint, count: number): Uint8Array {
  const hex = value.toString(16).padStart(Math.ceil(count / 8) * 2, '0');
  return Uint8Array.from((hex.match(/../g) ?? []).reverse(), (byte) => Number.parseInt(byte, 16));
}

const numberOf = (bytes: Uint8Array): bigint =>
  BigInt(
    `0x${[...bytes]
      .reverse()
      .map((byte) => byte.toString(16).padStart(2, '0'))
      .join('')}`,
  );
