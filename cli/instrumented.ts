import { build } from '../core/build/index.ts';
import { readBitstream } from '../core/fabric/index.ts';
import type { Cable } from '../core/jtag/index.ts';
import { loadBitstream, readBoardState } from '../core/operations/index.ts';
import type { ProbeMap } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import type { Hint } from '../core/wave/index.ts';
import { ProblemError, problem } from '../core/result.ts';
import { openPlan, openProject } from './files.ts';

export interface Instrumented {
  readonly part: string;
  readonly map: ProbeMap;
  /** Frequencies of clock ports in hertz, as the project says them. */
  readonly clocks: Readonly<Record<string, number>>;
  /** What is known of each signal that may explain why it does not move. */
  readonly hints: Readonly<Record<string, Hint>>;
}

/** Builds a project with its probes and sees to it that this very build runs; loads it only when another one does. */
export async function runInstrumented(cable: Cable, path: string, plan: string | undefined, device: number | null): Promise<Instrumented> {
  const project = openProject([path], {});
  const result = build({ project, plan: openPlan(plan) });
  for (const m of result.messages) if (m.severity === 'error') console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
  const bitstream = result.bitstream ? readBitstream(result.bitstream) : null;
  if (!bitstream?.ok) throw new ProblemError(problem('build-failed', 'The design does not build.', 'Mend the errors listed above.'));
  if (!result.probes) throw new ProblemError(problem('no-probes', 'The plan holds no probes.', 'Name a plan with --plan.'));
  const state = await readBoardState(cable, result.part, device);
  if (!state.ok) throw new ProblemError(state.error);
  if (state.value.fingerprint !== result.fingerprint) {
    const loaded = await loadBitstream(cable, bitstream.value, device, unwatched);
    const trouble = loaded.ok ? loaded.value.problem : loaded.error;
    if (trouble) throw new ProblemError(trouble);
  }
  return { part: result.part, map: result.probes, clocks: project.file.clocks, hints: Object.fromEntries(result.signals.map(({ name, driver, domain, net = name }) => [name, { driver, domain, net }])) };
}
