import { FLASH_PARTS } from '../../core/flash/index.ts';
import { keepAsSvf, loadAsSvf } from '../../core/operations/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import { short, usableBuild } from '../project/index.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'store' | 'board' | 'project'>;

/** What an SVF file shall do, and to which flash; without a name the first that is known. */
interface Wanted {
  readonly what: 'load' | 'keep';
  readonly flash: string | null;
}

/** The newest build's load, or its way into the flash, as an SVF file for the chain as it was last scanned. */
export async function exportSvf(
  on: Needs,
  { what, flash: name }: Wanted,
): Promise<Result<{ readonly name: string; readonly text: string }>> {
  const usable = await usableBuild(on);
  if (!usable.ok) return usable;
  const { row, bitstream } = usable.value;
  const flash = FLASH_PARTS.find((part) => name === null || part.name === name);
  if (!flash) return fail(problem('unknown-flash', { name }));
  const devices = await placesOfChain(on);
  const index = devices.findIndex(({ parts }) => parts.includes(bitstream.part));
  const irLengths = devices.flatMap(({ irLength }) => irLength ?? []);
  if (index < 0 || irLengths.length < devices.length)
    return fail(problem('part-not-in-chain', { part: bitstream.part }));
  const parts: string[] = [];
  const take = (text: string) => void parts.push(text);
  const place = { irLengths, index };
  const written = what === 'load' ? loadAsSvf(bitstream, place, take) : keepAsSvf(bitstream, flash, place, take);
  if (!written.ok) return written;
  return ok({ name: `${row.details.top}-${short(bitstream.fingerprint)}-${what}.svf`, text: parts.join('') });
}

/** Devices as they answered last; before the first scan as they are expected. */
async function placesOfChain(
  on: Needs,
): Promise<readonly { readonly irLength: number | null; readonly parts: readonly string[] }[]> {
  const { scan } = on.board.said;
  if (scan) return scan.devices.map(({ irLength, candidates }) => ({ irLength, parts: candidates }));
  const { chain } = await on.project.expectedChain();
  return (chain?.devices ?? []).map(({ irLength, part }) => ({ irLength, parts: part === null ? [] : [part] }));
}
