import { PAGE_BYTES } from './commands.ts';
import type { FlashPart } from './identity.ts';
import type { EraseType } from './sfdp.ts';

/** One sector of the smallest erase size that the image touches. */
export interface SectorPlan {
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
export function affectedRange(part: FlashPart, address: number, length: number): { readonly start: number; readonly length: number } {
  const { bytes } = smallestErase(part);
  const start = address - (address % bytes);
  return { start, length: Math.ceil((address + length - start) / bytes) * bytes };
}

/**
 * Which sectors differ, which of them must be erased (a 0 would have to become 1) and which pages are to be programmed. Neighbouring sectors
 * are erased together where a larger erase fits. `current` is what the affected range holds now.
 */
export function planWrite(part: FlashPart, address: number, image: Uint8Array, current: Uint8Array): WritePlan {
  const { start, length } = affectedRange(part, address, image.length);
  const sectorBytes = smallestErase(part).bytes;
  const wanted = current.slice();
  wanted.set(image, address - start);
  const sectors: SectorPlan[] = [];
  for (let at = 0; at < length; at += sectorBytes) {
    const [now, then] = [current.subarray(at, at + sectorBytes), wanted.subarray(at, at + sectorBytes)];
    let action: SectorPlan['action'] = 'keep';
    for (let i = 0; i < sectorBytes; i++) {
      const [from, to] = [now[i] as number, then[i] as number];
      if (from === to) continue;
      action = 'program';
      if ((from & to) !== to) {
        action = 'erase';
        break;
      }
    }
    const outside = (start + at < address && now.subarray(0, address - start - at).some((byte) => byte !== 0xff)) || (start + at + sectorBytes > address + image.length && now.subarray(Math.max(0, address + image.length - start - at)).some((byte) => byte !== 0xff));
    sectors.push({ address: start + at, action, shared: outside });
  }
  const erases = joinErases(part, sectors.filter((sector) => sector.action === 'erase').map((sector) => sector.address), sectorBytes);
  const pages: { address: number; data: Uint8Array }[] = [];
  for (const { address: sector, action } of sectors) {
    if (action === 'keep') continue;
    for (let at = sector - start; at < sector - start + sectorBytes; at += PAGE_BYTES) {
      const then = wanted.subarray(at, at + PAGE_BYTES);
      const needed = action === 'erase' ? then.some((byte) => byte !== 0xff) : then.some((byte, i) => byte !== current[at + i]);
      if (needed) pages.push({ address: start + at, data: then.slice() });
    }
  }
  return {
    sectorBytes, sectors, erases, pages,
    typical: erases.reduce((sum, { type }) => sum + type.typical, 0) + pages.length * part.page.typical,
    worst: erases.reduce((sum, { type }) => sum + type.worst, 0) + pages.length * part.page.worst,
  };
}

/** Larger erases in place of many small ones, wherever all of their sectors are to be erased anyway. */
export function joinErases(part: FlashPart, addresses: readonly number[], sectorBytes: number): { address: number; type: EraseType }[] {
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
