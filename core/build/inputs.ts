import { TIMING_TABLE } from '../constraints/index.ts';
import type { ProbePlan } from '../probes/index.ts';
import { fingerprintOf } from './fingerprint.ts';
import { isBesideBuild, PROJECT_FILE, readProjectFile } from './project.ts';

/** Digest of each thing a build is made from, so that a later look can name what changed. */
export type InputDigests = Readonly<Record<string, string>>;

const PLAN_INPUT = 'probe plan';

/**
 * The parts of `nimble.json` that matter to a build, by the words a person would use; accepted messages and names do
 * not.
 */
const SETTINGS = {
  part: 'part',
  package: 'package',
  grade: 'speed grade',
  top: 'top module',
  pins: 'ports table',
  board: 'board',
  clocks: 'clocks',
  parameters: 'parameters',
  languages: 'languages',
} as const;

/** Inputs that no bitstream depends on. */
const TIMING_ONLY: ReadonlySet<string> = new Set(['clocks', 'speed grade', TIMING_TABLE]);

/** Settings that builds of before do not know: one that is not chosen is no difference to them. */
const OPTIONAL: ReadonlySet<string> = new Set(['package', 'parameters', 'languages']);

/** Digest of one file's text. */
export const digestOf = (text: string): string => fingerprintOf(text);

/**
 * Digests of a project's inputs, from those that were made when each file was saved; `settings` is the text of
 * nimble.json.
 */
export function inputDigests(
  settings: string | null,
  files: readonly { readonly name: string; readonly digest: string }[],
  plan: ProbePlan,
): InputDigests {
  const read = settings === null ? null : readProjectFile(settings);
  // What is for simulation only leaves a build as it is.
  const only = new Set(read?.ok ? (read.value.simulation?.only ?? []) : []);
  const parts = read?.ok
    ? Object.entries(SETTINGS)
        .filter(([key]) => !OPTIONAL.has(key) || read.value[key as keyof typeof SETTINGS] !== undefined)
        .map(([key, name]) => [name, fingerprintOf(read.value[key as keyof typeof SETTINGS] ?? null)] as const)
    : [[PROJECT_FILE, fingerprintOf(settings ?? '')] as const];
  return Object.fromEntries([
    ...files
      .filter(({ name }) => name !== PROJECT_FILE && !only.has(name) && !isBesideBuild(name))
      .map(({ name, digest }) => [name, digest] as const),
    ...parts,
    [PLAN_INPUT, fingerprintOf(plan)] as const,
  ]);
}

/**
 * What of a build is out of date after a change: clocks, grade and timing table touch timing alone, everything else the
 * bitstream too.
 */
export interface Edit {
  readonly what: string;
  readonly change: 'changed' | 'added' | 'removed';
  readonly touches: 'everything' | 'timing';
}

export function editsBetween(then: InputDigests, now: InputDigests): Edit[] {
  return [...new Set([...Object.keys(then), ...Object.keys(now)])]
    .filter((what) => then[what] !== now[what])
    .sort()
    .map((what) => ({
      what,
      change: then[what] === undefined ? 'added' : now[what] === undefined ? 'removed' : 'changed',
      touches: TIMING_ONLY.has(what) ? 'timing' : 'everything',
    }));
}
