// How work in core ends: a value, or a problem a person can act on. Knows nothing of any one subject.

/** Where in a source text something is. `line` and `column` count from 1. */
export interface Place {
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

/**
 * Why something could not be done. `code` is stable and meant for scripts, `message` says what happened and where,
 * `tryNext` lists what to check, most likely cause first.
 */
export interface Problem {
  readonly code: string;
  readonly message: string;
  readonly place?: Place;
  /** What the words were made of, by name, for scripts. */
  readonly about?: Readonly<Record<string, string | number | null>>;
  readonly tryNext: readonly string[];
}

export type Result<T, E = Problem> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly error: E };

export const ok = <T>(value: T): { readonly ok: true; readonly value: T } => ({ ok: true, value });

export const fail = <E>(error: E): { readonly ok: false; readonly error: E } => ({ ok: false, error });

export const problem = (code: string, message: string, ...tryNext: string[]): Problem => ({ code, message, tryNext });

/** Data that words are made of, by the names a catalogue gives them. */
export type Told<K extends string> = Readonly<Record<K, string | number | null>>;

interface Words {
  readonly message: string;
  /** Most likely cause first. */
  readonly tryNext: readonly string[];
}

/**
 * All that can go wrong in a folder, by code, and how it is said. Where one code happens in several ways, each has its
 * own words under the code and, in brackets, what tells it apart: `no-build (compare)`.
 */
type Catalogue = Readonly<Record<string, (about: never) => Words>>;

type CodeOf<Key extends string> = Key extends `${infer Code} (${string})` ? Code : Key;

const LONGEST_TOLD = 1000;

/** What somebody gave may be a whole file; a sentence about it holds its beginning and its end. */
function shortened<T>(about: T): T {
  if (typeof about !== 'object' || about === null) return about;
  const isLong = (value: unknown) => typeof value === 'string' && value.length > LONGEST_TOLD;
  if (!Object.values(about).some(isLong)) return about;
  const cut = (value: unknown) =>
    isLong(value) ? `${String(value).slice(0, 700)}…${String(value).slice(-100)}` : value;
  return Object.fromEntries(Object.entries(about).map(([name, value]) => [name, cut(value)])) as T;
}

/** Makes problems of a catalogue: their codes are its keys, their words are made last, of the data they carry. */
export function saying<C extends Catalogue>(
  catalogue: C,
): <K extends keyof C & string>(key: K, ...about: Parameters<C[K]>) => Problem & { readonly code: CodeOf<K> } {
  return (key, ...[about]) => {
    const words = catalogue[key] as (about: unknown) => Words;
    const code = key.replace(/ \(.*\)$/, '') as CodeOf<typeof key>;
    const told = about === undefined ? undefined : shortened(about);
    return { code, ...(told === undefined ? {} : { about: told }), ...words(told) };
  };
}

/**
 * A problem on its way up through code that cannot go on, such as a cable that was unplugged in the middle of a scan.
 * Thrown only by cables and by cancellation; whoever starts a whole operation turns it back into a value with `settle`.
 */
export class ProblemError extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.message);
    this.name = 'ProblemError';
    this.problem = problem;
  }

  /** By name, since a bundler may put this module into several bundles of one process, each with a class of its own. */
  static override [Symbol.hasInstance](value: unknown): value is ProblemError {
    return value instanceof Error && value.name === 'ProblemError' && 'problem' in value;
  }
}

/** Runs a whole operation and returns the problem that interrupted it as a value. Other errors are defects and pass. */
export async function settle<T>(work: () => Promise<Result<T>>): Promise<Result<T>> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof ProblemError) return fail(error.problem);
    throw error;
  }
}

/** The value of a result; its problem is thrown, on its way up to whoever asked. */
export function taken<T>(result: Result<T>): T {
  if (!result.ok) throw new ProblemError(result.error);
  return result.value;
}
