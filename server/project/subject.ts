import { type Bitstream, readBitstream } from '../../core/families/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Board } from '../board/index.ts';
import type { BuildDetails, BuildRow, Store } from '../store/index.ts';

interface Stored {
  readonly store: Pick<Store, 'projects' | 'builds' | 'files'>;
}

interface Needs extends Stored {
  readonly board: Pick<Board, 'said'>;
}

export async function currentProject(on: Stored): Promise<Result<{ readonly id: number; readonly name: string }>> {
  const project = await on.store.projects.current();
  return project ? ok(project) : fail(problem('no-project'));
}

/** The newest build with a bitstream, opened. */
export async function usableBuild(
  on: Stored,
): Promise<Result<{ readonly row: BuildRow; readonly bitstream: Bitstream }>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const row = await on.store.builds.latestGood(project.value.id);
  const bytes = row ? await on.store.builds.bitstream(row.id) : null;
  if (row?.details.taken) return fail(problem('foreign-build', { part: row.details.part }));
  if (!row || !bytes) return fail(problem('no-build'));
  const bitstream = readBitstream(bytes);
  return bitstream.ok ? ok({ row, bitstream: bitstream.value }) : bitstream;
}

/**
 * The probe map that belongs to what runs on the board now, of a build or of a file; else that of the newest build,
 * whose check will then explain.
 */
interface CurrentProbes {
  readonly map: ProbeMap;
  readonly part: string;
  /** The build that the map is of; null where that was made elsewhere. */
  readonly built: BuildDetails | null;
}

export async function currentProbes(on: Needs): Promise<Result<CurrentProbes>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const { running, scan } = on.board.said;
  const fingerprint = running?.fingerprint ?? null;
  const built = fingerprint === null ? null : await on.store.builds.byFingerprint(project.value.id, fingerprint);
  const filed = fingerprint === null || built ? null : await on.store.files.probeMap(fingerprint);
  if (filed && running) {
    const device = scan?.devices[running.device];
    return device?.part ? ok({ map: filed.map, part: device.part, built: null }) : fail(problem('no-device'));
  }
  const row = built ?? (await on.store.builds.latestGood(project.value.id));
  if (!row) return fail(problem('no-build'));
  const { probes, part } = row.details;
  return probes ? ok({ map: probes, part, built: row.details }) : fail(problem('no-probes'));
}

export const short = (fingerprint: string): string => fingerprint.slice(0, 8);
