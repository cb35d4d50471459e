// One instruction and one data register of one device, chosen and shifted by a person.
import { bigIntOf, type Bits, bitsFromBigInt } from '../bits/index.ts';
import type { ChainSession } from '../board/index.ts';
import { type BsdlEntity, readBsdl } from '../bsdl/index.ts';
import { familyOf } from '../families/index.ts';
import { ChainLink, ScanQueue } from '../jtag/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { SvfWriter } from '../svf/index.ts';
import { problem } from './problems.ts';

/** An instruction as a description tells it. */
export interface HandInstruction {
  readonly name: string;
  /** Most significant bit first; an X of the description counts as 0. */
  readonly opcode: string;
  readonly register: string | null;
  /** Bits of the register it selects; null where the description does not say. */
  readonly length: number | null;
  /** What it does to the pins while it is in force; null where it leaves them alone, or that is not known. */
  readonly pins: string | null;
}

/** @source IEEE 1149.1, clauses on the instructions; IEEE 1532 for those that begin with ISC_ */
const AT_PINS: readonly (readonly [RegExp, string])[] = [
  [/^EXTEST/, 'drives the pins from the boundary register'],
  [/^INTEST/, 'cuts the pins off, the boundary register drives the inside'],
  [/^CLAMP$/, 'holds the pins as the boundary register says'],
  [/^HIGHZ$/, 'lets go of all pins'],
  [/^ISC_/, 'belongs to programming: the part may stop what it runs'],
];

/** Registers that the standard gives a length. */
const STANDARD_LENGTH: Readonly<Record<string, number>> = { BYPASS: 1, IDCODE: 32, USERCODE: 32 };
const STANDARD_REGISTER: Readonly<Record<string, string>> = {
  BYPASS: 'BYPASS',
  CLAMP: 'BYPASS',
  HIGHZ: 'BYPASS',
  IDCODE: 'DEVICE_ID',
  USERCODE: 'DEVICE_ID',
  EXTEST: 'BOUNDARY',
  SAMPLE: 'BOUNDARY',
  PRELOAD: 'BOUNDARY',
  INTEST: 'BOUNDARY',
};

/** All instructions of a description, each with the register it selects, in the order of their names. */
export function instructionsOf(entity: BsdlEntity): readonly HandInstruction[] {
  return Object.entries(entity.instructions)
    .flatMap(([name, opcodes]) =>
      opcodes.slice(0, 1).map((opcode): HandInstruction => {
        const own = entity.registers.find(({ instructions }) => instructions.includes(name));
        const register = own?.name ?? STANDARD_REGISTER[name] ?? null;
        return {
          name,
          opcode: opcode.replace(/X/g, '0'),
          register,
          length: own?.length ?? lengthOf(register, entity) ?? STANDARD_LENGTH[name] ?? null,
          pins: AT_PINS.find(([form]) => form.test(name))?.[1] ?? null,
        };
      }),
    )
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** The description of a part that is known here, in its usual package; null for any other. */
export function descriptionOf(part: string | null): BsdlEntity | null {
  const family = part === null ? undefined : familyOf(part);
  const [usual] = part === null ? [] : (family?.packagesOf(part) ?? []);
  const text = part === null || usual === undefined ? null : family?.describe(part, usual);
  return text ? readBsdl(text).entity : null;
}

function lengthOf(register: string | null, entity: BsdlEntity): number | null {
  if (register === 'BOUNDARY') return entity.boundaryLength;
  if (register === 'BYPASS') return 1;
  return register === 'DEVICE_ID' ? 32 : null;
}

/** What a person shifts. `opcode` has the instruction register's length; `data` null leaves the data register alone. */
interface HandScan {
  readonly place: number;
  readonly opcode: bigint;
  readonly data: Bits | null;
}

/** What came. */
interface HandAnswer {
  readonly irLength: number;
  /** What Capture-IR had loaded: two lowest bits 01, the rest as the maker likes. */
  readonly irCaptured: Bits;
  readonly captured: Bits | null;
  readonly tckCycles: number;
}

/** Loads the instruction, all other devices in BYPASS, then exchanges the data register. */
export async function scanByHand(chain: ChainSession, { place, opcode, data }: HandScan): Promise<Result<HandAnswer>> {
  const around = await lengthsAround(chain, place);
  if (!around.ok) return around;
  const { lengths, irLength } = around.value;
  if (opcode >= 1n << BigInt(irLength)) return fail(problem('hand-opcode', { irLength, place }));
  const queue = new ScanQueue(chain.cable);
  queue.reset();
  const link = new ChainLink(queue, lengths, place);
  const ir = link.exchangeInstruction(opcode);
  const answer = data ? link.exchange(data) : null;
  await queue.flush();
  return ok({ irLength, irCaptured: await ir, captured: await answer, tckCycles: queue.counts.tckCycles });
}

async function lengthsAround(
  chain: ChainSession,
  place: number,
): Promise<Result<{ readonly lengths: readonly number[]; readonly irLength: number }>> {
  const { devices, problems } = await chain.current();
  const [trouble] = problems;
  if (trouble) return fail(trouble);
  const lengths = devices.flatMap(({ irLength }) => irLength ?? []);
  if (lengths.length < devices.length) return fail(problem('hand-lengths'));
  const irLength = lengths[place];
  if (irLength === undefined) return fail(problem('hand-place', { place, count: devices.length }));
  return ok({ lengths, irLength });
}

/** A number as people write it: decimal, or with 0x, 0b, 0o before it; underscores between digits. */
export function typedBits(text: string, length: number): Result<Bits> {
  const plain = text.trim().replace(/_/g, '');
  if (!/^(0x[0-9a-f]+|0b[01]+|0o[0-7]+|[0-9]+)$/i.test(plain)) return fail(problem('hand-value', { text }));
  const value = BigInt(plain);
  if (value >= 1n << BigInt(length)) return fail(problem('hand-value (too long)', { text, length }));
  return ok(bitsFromBigInt(value, length));
}

/** One scan that was made, with what came, for writing down. */
export interface HandStep extends HandScan {
  readonly irLength: number;
  readonly captured: Bits | null;
  /** What comes must be that again. */
  readonly expects: boolean;
  readonly remark: string;
}

/** Scans as SVF, for the chain they were made on: instruction lengths from the device nearest TDO on. */
export function handScansAsSvf(steps: readonly HandStep[], irLengths: readonly number[]): string {
  const text: string[] = [];
  const writer = new SvfWriter((piece) => text.push(piece));
  const around = (lengths: readonly number[]) => ({
    irBits: lengths.reduce((sum, one) => sum + one, 0),
    devices: lengths.length,
  });
  let at: number | null = null;
  for (const { place, opcode, irLength, data, captured, expects, remark } of steps) {
    if (place !== at) writer.pad(around(irLengths.slice(0, place)), around(irLengths.slice(place + 1)));
    at = place;
    writer.comment(remark);
    writer.instruction(opcode, irLength);
    if (data) writer.data(data, expects && captured ? { tdo: captured, care: null } : null);
  }
  return text.join('');
}

/** Bits as a number in hexadecimal digits, all that the length needs. */
export const handHex = (bits: Bits): string =>
  `0x${bigIntOf(bits)
    .toString(16)
    .toUpperCase()
    .padStart(Math.max(1, Math.ceil(bits.length / 4)), '0')}`;
