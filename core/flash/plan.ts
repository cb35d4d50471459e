import { byteAt } from '../lists.ts';
import { PAGE_BYTES } from './commands.ts';
import type { FlashPart } from './identity.ts';
import type { EraseType } from './sfdp.ts';

/** One sector of the smallest erase size that the image touches. */
interface SectorPlan {
  readonly address: number;
  readonly action: 'keep' | 'program' | 'erase';
  /** The sector also holds something else, which is written back as it was. */
  readonly shared: boolean;
}

/** What writing would do. Times in microseconds, from the part's table. */
export interface WritePlan {
  readonly sectorBytes: number;
  readonly sectors: readonly SectorPlan[];
  readonly erases: readonly { readonly address: number; readonly type: EraseType }[];
  readonly pages: readonly { readonly address: number; readonly data: Uint8Array }[];
  readonly typical: number;
  readonly worst: number;
}

export const smallestErase = ({ erases }: FlashPart): EraseType => erases.reduce((a, b) => (b.bytes < a.bytes ? b : a));

/** The stretch that must be known to plan a write: whole sectors around the image. */
export function affectedRange(
  part: FlashPart,
  address: number,
  length: number,
): { readonly start: number; readonly length: number } {
  const { bytes } = smallestErase(part);
  const start = address - (address % bytes);
  return { start, length: Math.ceil((address + length - start) / bytes) * bytes };
}

/** Bytes that are to stand at an address. */
export interface Piece {
  readonly address: number;
  readonly bytes: Uint8Array;
}

/** A stretch of whole sectors. */
interface Stretch {
  readonly start: number;
  readonly length: number;
}

/** The sectors that pieces touch, in the order of addresses, neighbours as one stretch. */
export function stretchesOf(part: FlashPart, pieces: readonly Piece[]): Stretch[] {
  const found: { start: number; length: number }[] = [];
  const own = pieces
    .filter(({ bytes }) => bytes.length > 0)
    .map(({ address, bytes }) => affectedRange(part, address, bytes.length));
  for (const { start, length } of own.sort((a, b) => a.start - b.start)) {
    const last = found.at(-1);
    if (last && start <= last.start + last.length) last.length = Math.max(last.length, start + length - last.start);
    else found.push({ start, length });
  }
  return found;
}

/**
 * Which sectors of a stretch differ, which of them must be erased (a 0 would have to become 1) and which pages are to
 * be programmed. Neighbouring sectors are erased together where a larger erase fits. `current` is what the stretch
 * holds now; pieces outside it are left out, a later piece wins over an earlier one.
 */
export function planPieces(
  part: FlashPart,
  pieces: readonly Piece[],
  { start, length }: Stretch,
  current: Uint8Array,
): WritePlan {
  const sectorBytes = smallestErase(part).bytes;
  const wanted = current.slice();
  const ours = new Uint8Array(length);
  for (const { address, bytes } of pieces) {
    if (address < start || address + bytes.length > start + length) continue;
    wanted.set(bytes, address - start);
    ours.fill(1, address - start, address - start + bytes.length);
  }
  const sectors: SectorPlan[] = [];
  for (let at = 0; at < length; at += sectorBytes) {
    let action: SectorPlan['action'] = 'keep';
    let shared = false;
    for (let i = at; i < at + sectorBytes; i++) {
      const [from, to] = [byteAt(current, i), byteAt(wanted, i)];
      if (!ours[i] && from !== 0xff) shared = true;
      if (from === to) continue;
      if ((from & to) !== to) action = 'erase';
      else if (action === 'keep') action = 'program';
    }
    sectors.push({ address: start + at, action, shared });
  }
  const erases = joinErases(
    part,
    sectors.filter((sector) => sector.action === 'erase').map((sector) => sector.address),
    sectorBytes,
  );
  const pages: { address: number; data: Uint8Array }[] = [];
  for (const { address: sector, action } of sectors) {
    if (action === 'keep') continue;
    for (let at = sector - start; at < sector - start + sectorBytes; at += PAGE_BYTES) {
      const then = wanted.subarray(at, at + PAGE_BYTES);
      const needed =
        action === 'erase' ? then.some((byte) => byte !== 0xff) : then.some((byte, i) => byte !== current[at + i]);
      if (needed) pages.push({ address: start + at, data: then.slice() });
    }
  }
  return timed(part, sectorBytes, sectors, erases, pages);
}

/** Plans of several stretches as one. */
export const joinPlans = (part: FlashPart, plans: readonly WritePlan[]): WritePlan =>
  timed(
    part,
    smallestErase(part).bytes,
    plans.flatMap((plan) => plan.sectors),
    plans.flatMap((plan) => plan.erases),
    plans.flatMap((plan) => plan.pages),
  );

const timed = (
  part: FlashPart,
  sectorBytes: number,
  sectors: WritePlan['sectors'],
  erases: WritePlan['erases'],
  pages: WritePlan['pages'],
): WritePlan => ({
  sectorBytes,
  sectors,
  erases,
  pages,
  typical: erases.reduce((sum, { type }) => sum + type.typical, 0) + pages.length * part.page.typical,
  worst: erases.reduce((sum, { type }) => sum + type.worst, 0) + pages.length * part.page.worst,
});

/** Larger erases in place of many small ones, wherever all of their sectors are to be erased anyway. */
export function joinErases(
  part: FlashPart,
  addresses: readonly number[],
  sectorBytes: number,
): { address: number; type: EraseType }[] {
  const open = new Set(addresses);
  const found: { address: number; type: EraseType }[] = [];
  for (const type of [...part.erases].sort((a, b) => b.bytes - a.bytes))
    for (const address of addresses) {
      if (address % type.bytes !== 0 || !open.has(address)) continue;
      const own = Array.from({ length: type.bytes / sectorBytes }, (_, i) => address + i * sectorBytes);
      if (!own.every((sector) => open.has(sector))) continue;
      for (const sector of own) open.delete(sector);
      found.push({ address, type });
    }
  return found.sort((a, b) => a.address - b.address);
}
