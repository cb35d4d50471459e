import { problem, ProblemError } from '../../core/result.ts';
import { DEFAULT_PLAN } from '../board/index.ts';
import { importedProject } from '../project/index.ts';
import type { GivenFile } from '../threads/index.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'store' | 'facts' | 'changed' | 'reading'>;

/** A file that was taken. `dropped` names older ones that were deleted to make room. */
interface Taken {
  readonly id: number;
  readonly dropped: readonly string[];
}

/** A bitstream for Load; one that cannot be read is refused and not kept. */
export async function takeBitstream(on: Needs, file: GivenFile) {
  const { part, fingerprint, bytes } = await on.reading.ask('bitstream', file);
  const about = { format: 'nbits', start: 0, end: bytes, fingerprint } as const;
  const id = await on.store.files.addImage(file.name, file.bytes, about);
  return { ...(await taken(on, id)), part, fingerprint };
}

/** A memory file of any format for the flash. One with an error is refused here, with its line. */
export async function takeImage(on: Needs, file: GivenFile) {
  const { name, bytes } = file;
  if (/\.(svf|json|vh?|sv|vcd|csv)$/i.test(name)) {
    const instead = /\.svf$/i.test(name)
      ? 'Play it under Load.'
      : 'Take an Intel HEX, S-record, binary or .nbits file.';
    throw new ProblemError(problem('no-image', `${name} is no memory file.`, instead));
  }
  const facts = await on.reading.ask('image', file);
  const { format, start, end, fingerprint } = facts;
  const id = await on.store.files.addImage(name, bytes, { format, start, end, fingerprint });
  return { ...(await taken(on, id)), ...facts };
}

const taken = async (on: Needs, id: number): Promise<Taken> => ({ id, dropped: await makeRoom(on, id) });

/** Keeps the description of a device, where it is good. */
export async function takeDescription(on: Needs, bytes: Uint8Array) {
  const reading = await on.reading.ask('bsdl', { bytes });
  if (reading.valid && reading.entity !== null) {
    await on.store.files.addDescription(reading.entity, new TextDecoder().decode(bytes));
    on.changed();
  }
  return reading;
}

/** Makes a project of a zip file and opens it. */
export async function takeProject(on: Needs, bytes: Uint8Array) {
  const archive = await on.reading.ask('archive', { bytes });
  const imported = importedProject(archive.files);
  if (!imported.ok) throw new ProblemError(imported.error);
  const { name, files } = imported.value;
  const id = await on.store.projects.create(name, files, archive.shelf);
  on.changed();
  return { id, name, remarks: archive.remarks };
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
