// Replay of a project's design: from its files to a region, a plan to record by, and a testbench of what was recorded.
import { designSettings, filesForHardware, type Project } from '../build/index.ts';
import { elaborate, type SourceFile } from '../hdl/index.ts';
import {
  type Region,
  regionOf,
  type Replay,
  replayDesign,
  type Testbench,
  type TestbenchFill,
  testbenchOf,
  type Wishes,
} from '../replay/index.ts';
import { fail, type Result } from '../result.ts';
import { aloneAs } from '../vectors/index.ts';
import { problem } from './problems.ts';

/** A design as its sources say it, and what reading them needs. */
export interface ReplaySources {
  readonly files: readonly SourceFile[];
  readonly options: ReturnType<typeof designSettings>;
}

export const replaySources = (project: Project): ReplaySources => ({
  files: filesForHardware(project),
  options: designSettings(project.file),
});

/** What is chosen of a design; `levers` are signals that were driven by hand while it ran. */
export function replayRegion(
  { files, options }: ReplaySources,
  wishes: Wishes,
  levers: readonly string[] = [],
): Result<Region> {
  const { netlist, messages } = elaborate(files, options);
  if (!netlist) {
    const errors = messages.list.filter(({ severity }) => severity === 'error');
    return fail(
      problem('not-understood (replay)', {
        errors: errors
          .slice(0, 5)
          .map((one) => `${one.file}:${one.line}: ${one.message}`)
          .join(' '),
      }),
    );
  }
  return regionOf(replayDesign(netlist, levers), wishes);
}

/** A testbench of one instance, by its path; with the module's parameters as they are there. */
export function replayTestbench(
  { files, options }: ReplaySources,
  replay: Replay,
  path: string,
  fill: TestbenchFill,
): Result<Testbench> {
  const top = replay.prepared.region.design.signals[0]?.name.split('.')[0] ?? '';
  const full = path === top || path.startsWith(`${top}.`) ? path : `${top}.${path}`;
  const alone = aloneAs(files, options, full);
  if (!alone.ok) return alone;
  const { top: module = '', parameters = {} } = alone.value;
  return testbenchOf(replay, full, { module, parameters }, fill);
}

/** Sources that a testbench runs with: those of the design, data files among them. */
export const sourcesBeside = ({ files }: ReplaySources): readonly SourceFile[] =>
  files.filter(({ name }) => /\.(s?vh?|hex|mem)$/.test(name));
