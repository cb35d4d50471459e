import { misordered, readBitstream, streamFacts } from '../../core/families/index.ts';
import { imageCrc, imageEnd, readImage } from '../../core/images/index.ts';
import { imageBlocks } from '../../core/operations/index.ts';
import { fail, ok, problem, type Result } from '../../core/result.ts';
import { DEFAULT_PLAN } from '../board/index.ts';
import { CONTAINERS } from './keep-subject.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'store' | 'facts' | 'changed'>;

/** A file as somebody gave it. */
export interface GivenFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** A file that was taken. `dropped` names older ones that were deleted to make room. */
interface Taken {
  readonly id: number;
  readonly dropped: readonly string[];
}

interface TakenBitstream extends Taken {
  readonly part: string;
  readonly fingerprint: string;
}

interface TakenImage extends Taken {
  readonly format: string;
  readonly start: number;
  readonly end: number;
  readonly segments: number;
  readonly crc32: string;
  readonly warnings: readonly string[];
}

/** A bitstream for Load; one that cannot be read is refused and not kept. */
export async function takeBitstream(on: Needs, { name, bytes }: GivenFile): Promise<Result<TakenBitstream>> {
  const read = readBitstream(bytes);
  if (!read.ok) return fail({ ...read.error, message: `${name}: ${read.error.message}` });
  const { part, fingerprint, stream } = read.value;
  const about = { format: 'nbits', start: 0, end: stream.length, fingerprint } as const;
  const id = await on.store.files.addImage(name, bytes, about);
  return ok({ id, part, fingerprint, dropped: await makeRoom(on, id) });
}

/** A memory file of any format for the flash. One with an error is refused here, with its line. */
export async function takeImage(on: Needs, { name, bytes }: GivenFile): Promise<Result<TakenImage>> {
  if (/\.(svf|json|vh?|sv|vcd|csv)$/i.test(name)) {
    const instead = /\.svf$/i.test(name)
      ? 'Play it under Load.'
      : 'Take an Intel HEX, S-record, binary or .nbits file.';
    return fail(problem('no-image', `${name} is no memory file.`, instead));
  }
  const { format, image, problems } = readImage(bytes, CONTAINERS);
  const first = problems.find(({ severity }) => severity === 'error');
  if (first) {
    const where = `${name}${first.line ? `, line ${first.line}` : ''}`;
    return fail(problem(first.code, `${where}: ${first.message}`, 'Correct the file and add it again.'));
  }
  const [start, end] = [image.segments[0]?.start ?? 0, imageEnd(image)];
  const advice = image.segments[0] ? misordered(image.segments[0].bytes) : null;
  const boots = imageBlocks(name, { format, image }).find(({ role }) => role === 'image');
  const fingerprint = boots ? streamFacts(boots.bytes).fingerprint : null;
  const id = await on.store.files.addImage(name, bytes, { format, start, end, fingerprint });
  return ok({
    id,
    dropped: await makeRoom(on, id),
    format,
    start,
    end,
    segments: image.segments.length,
    crc32: imageCrc(image),
    warnings: [
      ...(advice ? [advice] : []),
      ...problems.map(({ line, message }) => `${line ? `Line ${line}: ` : ''}${message}`),
    ],
  });
}

/** Deletes a file; a plan that names it would only fail, and forgets it. */
export async function removeImage(on: Needs, id: number): Promise<boolean> {
  const removed = await on.store.files.removeImage(id);
  await on.facts.change('loadPlan', (plan) => {
    const steps = plan?.steps.filter(({ source }) => source.kind !== 'image' || source.id !== id) ?? [];
    return plan && steps.length > 0 ? { ...plan, steps } : null;
  });
  on.changed();
  return removed;
}

/** Names of the files that were deleted for a new one; what is chosen for Load or Keep is none of them. */
async function makeRoom(on: Needs, added: number): Promise<string[]> {
  const plan = (await on.facts.get('loadPlan')) ?? DEFAULT_PLAN;
  const kept = (await on.facts.get('keepChoice'))?.image?.id;
  return on.store.files.makeRoom(
    new Set([
      added,
      ...(kept === undefined ? [] : [kept]),
      ...plan.steps.flatMap(({ source }) => (source.kind === 'image' ? [source.id] : [])),
    ]),
  );
}
