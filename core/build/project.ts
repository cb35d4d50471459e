import { z } from 'zod';
import { type BoardDescription, readBoard, TIMING_TABLE } from '../constraints/index.ts';
import { cellsOf, foreignSettings } from '../families/index.ts';
import { fail, ok, type Result, problem as plainProblem } from '../result.ts';
import { parameterNumbers, WHOLE_NUMBER } from './parameters.ts';
import { problem } from './problems.ts';

/** A message somebody has looked at and found harmless. It is known again by its code, file, text and source line. */
const acceptance = z.object({
  code: z.string(),
  file: z.string(),
  message: z.string(),
  line: z.string(),
  reason: z.string().min(1),
});

const wholeNumber = z.string().regex(WHOLE_NUMBER);

/** What is simulated, and how; apart from the build, so that dividers may be small here and large there. */
const simulationSettings = z.object({
  /** The table that is run, through which module. */
  vectors: z
    .object({
      file: z.string().optional(),
      module: z.string().optional(),
      clock: z.string().optional(),
      parameters: z.record(z.string(), wholeNumber).default({}),
    })
    .optional(),
  /** Files that are for simulation only: a build does not read them. */
  only: z.array(z.string()).default([]),
  testbench: z.string().optional(),
  parameters: z.record(z.string(), wholeNumber).default({}),
  plusargs: z.array(z.string()).default([]),
  /** A time with its unit, or ticks of the finest precision. */
  until: z.string().optional(),
});

export const projectFile = z.object({
  format: z.literal('nimble-project'),
  version: z.literal(3),
  name: z.string().min(1),
  part: z.string(),
  /** Case the part comes in; the part's usual one where it is not said. */
  package: z.string().optional(),
  /** A part that nothing is built for here: how it is known, and how its fabric's user register is reached. */
  foreign: foreignSettings.optional(),
  /** Speed grade, 1 slow to 3 fast. */
  grade: z.number().int().positive().default(2),
  top: z.string().optional(),
  pins: z.string().default('pins.csv'),
  /** File that describes the board. */
  board: z.string().optional(),
  /** Bench file, from the project's folder, that the command uses when it is given neither a bench nor a pod. */
  bench: z.string().optional(),
  /** Frequency of each clock port, in hertz. */
  clocks: z.record(z.string(), z.number().positive()).default({}),
  accepted: z.array(acceptance).default([]),
  /** Parameters of the top module for the build: whole numbers, decimal or with 0x or 0b before them. */
  parameters: z.record(z.string(), wholeNumber).optional(),
  simulation: simulationSettings.optional(),
  /** Standards of files that are written in another one than their names say. */
  languages: z.record(z.string(), z.enum(['verilog', 'systemverilog'])).optional(),
});

/** `nimble.json`: what a project is, besides its sources. docs/formats.md, section 2 */
export type ProjectFile = z.infer<typeof projectFile>;
export type Acceptance = z.infer<typeof acceptance>;

export interface TextFile {
  readonly name: string;
  readonly text: string;
  /** The standard it is written in, where its name says another one. */
  readonly language?: 'verilog' | 'systemverilog';
}

/** A project as the build takes it: everything by value, no paths. */
export interface Project {
  readonly file: ProjectFile;
  /** All files but `nimble.json`, by name. */
  readonly files: readonly TextFile[];
}

/** The files a build reads: all but those that are for simulation only. */
export const filesForHardware = ({ file, files }: Project): readonly TextFile[] => {
  const only = new Set(file.simulation?.only ?? []);
  return only.size === 0 ? files : files.filter(({ name }) => !only.has(name));
};

/** What of the project's settings says which module is built, and how. */
export const designSettings = ({ top, parameters, part }: ProjectFile) => ({
  cells: cellsOf(part),
  ...(top === undefined ? {} : { top }),
  ...(parameters === undefined ? {} : { parameters: parameterNumbers(parameters) }),
});

export const PROJECT_FILE = 'nimble.json';

/** Versions of `nimble.json` that are read, the newest last. */
const VERSIONS = [1, 2, 3] as const;

/** A version step: what the next version calls the same things, and what it has to assume. */
const MIGRATIONS: Readonly<
  Record<
    number,
    { readonly step: (data: Record<string, unknown>) => Record<string, unknown>; readonly assumed: string }
  >
> = {
  // Version 2 added speed grade, board and accepted messages.
  1: {
    step: (data) => ({ ...data, version: 2, grade: 2, accepted: [] }),
    assumed: 'speed grade 2, no board description, no accepted messages',
  },
  // Version 3 added the package.
  2: { step: (data) => ({ ...data, version: 3 }), assumed: 'the usual package of the part' },
};

/** That a file was of an older version, what was assumed, and what becomes of it. */
interface Migrated {
  readonly from: number;
  readonly message: string;
}

/** Null for a project of the present version, or one that cannot be read. */
export function migrationOf(text: string): Migrated | null {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    return null;
  }
  const from = versionOf(data);
  if (from === null || !MIGRATIONS[from]) return null;
  const assumed = VERSIONS.filter((version) => version >= from).flatMap(
    (version) => MIGRATIONS[version]?.assumed ?? [],
  );
  return {
    from,
    message:
      `nimble.json is of version ${from}. It is read as version ${VERSIONS.at(-1)}, with ${assumed.join('; ')}. It ` +
      `stays as it is until a setting is changed; then it is written as version ${VERSIONS.at(-1)}.`,
  };
}

const versionOf = (data: unknown): number | null =>
  typeof data === 'object' && data !== null && 'version' in data && typeof data.version === 'number'
    ? data.version
    : null;

export function readProject(files: readonly TextFile[]): Result<Project> {
  const json = files.find((file) => file.name === PROJECT_FILE);
  if (!json) return fail(problem('no-project'));
  const read = readProjectFile(json.text);
  if (!read.ok) return read;
  const { languages = {} } = read.value;
  const sources = files
    .filter((file) => file !== json)
    .map((file): TextFile => {
      const language = Object.hasOwn(languages, file.name) ? languages[file.name] : undefined;
      return language === undefined ? file : { ...file, language };
    });
  return ok({ file: read.value, files: sources });
}

/** Reads `nimble.json` of this version or an older one. */
export function readProjectFile(text: string): Result<ProjectFile> {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem('project-file (not json)', { why: (error as Error).message }));
  }
  const version = versionOf(data);
  if (version !== null && !(VERSIONS as readonly number[]).includes(version))
    return fail(
      plainProblem(
        'project-version',
        `nimble.json is of version ${version}; this release knows ` +
          `${VERSIONS.map((one) => `version ${one}`).join(' and ')}.`,
        version > 3 ? 'Open it with a newer release.' : 'Compare it with docs/formats.md, section 2.',
      ),
    );
  const read = projectFile.safeParse(migrated(data));
  if (read.success) return ok(read.data);
  const [first] = read.error.issues;
  return fail(
    problem('project-file', {
      path: first?.path.join('.') || 'the file',
      why: first?.message ?? '',
    }),
  );
}

function migrated(data: unknown): unknown {
  let now = data;
  for (let version = versionOf(now); version !== null && MIGRATIONS[version]; version = versionOf(now))
    now = MIGRATIONS[version]?.step(now as Record<string, unknown>);
  return now;
}

export const writeProjectFile = (file: ProjectFile): string => `${JSON.stringify(file, null, 2)}\n`;

/** The board the project names; null where it names none. */
export function boardOf({ file, files }: Project): Result<BoardDescription> | null {
  if (file.board === undefined) return null;
  const text = files.find((f) => f.name === file.board);
  return text ? readBoard(text.name, text.text) : fail(problem('board-file', { board: file.board }));
}

/** Files that lie with a project but say nothing to a build: chains, benches, plans of probes, vectors. */
export const isBesideBuild = (name: string): boolean =>
  /\.(chain|plan|probes|layout|bench)\.json$|\.(vectors|boards)\.csv$/.test(name);

/**
 * Files that no bitstream depends on: those, what a build only judges the design by, the board and the timing, and what
 * describes a part.
 */
export const isBesideDesign = (name: string): boolean =>
  isBesideBuild(name) || name === TIMING_TABLE || name.endsWith('.board.json') || /\.bsdl?$/i.test(name);
