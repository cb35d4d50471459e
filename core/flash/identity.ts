import { last } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { COMMAND, PAGE_BYTES } from './commands.ts';
import type { SpiPort } from './port.ts';
import { basicTablePlace, type EraseType, type FlashParameters, readParameters } from './sfdp.ts';

/**
 * One chip this product knows. Times in microseconds. `erase` is the largest block it erases. docs/silicon.md, section
 * 8
 */
export interface FlashPart {
  readonly name: string;
  readonly maker: string;
  /** The three bytes of command 9F. */
  readonly identity: readonly [number, number, number];
  readonly bytes: number;
  readonly erases: readonly EraseType[];
  /** The largest of them. */
  readonly erase: EraseType;
  readonly page: { readonly typical: number; readonly worst: number };
}

const part = (
  name: string,
  maker: string,
  identity: FlashPart['identity'],
  erases: readonly EraseType[],
  page: FlashPart['page'],
): FlashPart => ({ name, maker, identity, bytes: 1 << 22, erases, erase: last(erases), page });

export const FLASH_PARTS: readonly FlashPart[] = [
  part(
    'LR32',
    'Ledger',
    [0x4b, 0x31, 0x16],
    [
      { command: COMMAND.ERASE_4K, bytes: 1 << 12, typical: 16_000, worst: 320_000 },
      { command: COMMAND.ERASE_64K, bytes: 1 << 16, typical: 128_000, worst: 2_560_000 },
    ],
    { typical: 320, worst: 5_120 },
  ),
  part(
    'QF32',
    'Quoin',
    [0x95, 0x27, 0x16],
    [
      { command: COMMAND.ERASE_4K, bytes: 1 << 12, typical: 16_000, worst: 320_000 },
      { command: COMMAND.ERASE_32K, bytes: 1 << 15, typical: 96_000, worst: 1_920_000 },
    ],
    { typical: 384, worst: 6_144 },
  ),
];

/** A chip as it was met: who it is, what its own table says, and its status register. */
export interface FlashIdentity {
  readonly part: FlashPart;
  readonly parameters: FlashParameters | null;
  readonly status: number;
  /** Block protection is on: writes would not be carried out. */
  readonly isProtected: boolean;
}

const PARAMETER_HEADERS = 8 * 5;
const PROTECTION = 0x1c;

/**
 * Identity, parameter table and status. A chip that is not in the known-part table is taken by its own table; one whose
 * table contradicts the known part is refused.
 */
export async function meet(port: SpiPort): Promise<Result<FlashIdentity>> {
  port.send(Uint8Array.of(COMMAND.WAKE));
  port.wait(50);
  const answer = await port.exchange(Uint8Array.of(COMMAND.IDENTITY), 3);
  const text = [...answer].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  if (answer.every((byte) => byte === 0xff) || answer.every((byte) => byte === 0))
    return fail(problem('flash-silent', { text }));
  const known = FLASH_PARTS.find((p) => p.identity.every((byte, i) => byte === answer[i]));
  const parameters = await askParameters(port);
  const [status = 0] = await port.exchange(Uint8Array.of(COMMAND.READ_STATUS), 1);
  const rest = { parameters, status, isProtected: (status & PROTECTION) !== 0 };
  if (known) {
    const against = parameters ? contradiction(known, parameters) : null;
    if (against) return fail(problem('flash-disagrees', { text, maker: known.maker, name: known.name, against }));
    return ok({ part: known, ...rest });
  }
  const own = parameters ? partFrom(parameters, [...answer] as [number, number, number], text) : null;
  if (!own) return fail(problem('flash-unknown', { text }));
  return ok({ part: own, ...rest });
}

/** The chip's own table; null without one. */
async function askParameters(port: SpiPort): Promise<FlashParameters | null> {
  const at = (address: number) =>
    Uint8Array.of(COMMAND.PARAMETERS, (address >>> 16) & 0xff, (address >>> 8) & 0xff, address & 0xff, 0);
  const place = basicTablePlace(await port.exchange(at(0), PARAMETER_HEADERS));
  if (!place.ok) return null;
  const bytes = await port.exchange(at(place.value.address), place.value.words * 4);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return readParameters(
    Array.from({ length: place.value.words }, (_, i) => view.getUint32(i * 4, true)),
    place.value.revision,
  );
}

function contradiction(part: FlashPart, parameters: FlashParameters): string | null {
  if (parameters.bytes !== part.bytes) return `${parameters.bytes} bytes instead of ${part.bytes}`;
  const other = part.erases.find(
    (known) => !parameters.erases.some((erase) => erase.bytes === known.bytes && erase.command === known.command),
  );
  return other
    ? `it has no erase of ${other.bytes / 1024} KiB ` +
        `(${parameters.erases.map((erase) => `${erase.bytes / 1024} KiB`).join(', ')})`
    : null;
}

function partFrom(
  { bytes, erases, page, addressBytes }: FlashParameters,
  identity: [number, number, number],
  text: string,
): FlashPart | null {
  const timed = erases.flatMap(({ typical, worst, ...erase }) =>
    typical === null || worst === null ? [] : [{ ...erase, typical, worst }],
  );
  const largest = timed.at(-1);
  if (!largest || !page || page.bytes < PAGE_BYTES || addressBytes === '4') return null;
  return {
    name: text.replaceAll(' ', ''),
    maker: 'unknown maker',
    identity,
    bytes,
    erases: timed,
    erase: largest,
    page,
  };
}
