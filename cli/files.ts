import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join, relative } from 'node:path';
import { decodeText, migrationOf, PROJECT_FILE, type Project, readProject } from '../core/build/index.ts';
import { activePlan, emptyPlan, type ProbePlan, readPlanFile } from '../core/probes/index.ts';
import { ProblemError } from '../core/result.ts';
import { CallError } from './output.ts';

const SOURCES = /\.(s?vh?|csv|hex|mem|json)$/;

export function readBytes(path: string): Uint8Array {
  if (!existsSync(path) || !statSync(path).isFile()) throw new CallError(`There is no file ${path}.`);
  return new Uint8Array(readFileSync(path));
}

export function readText(path: string): string {
  const text = decodeText(basename(path), readBytes(path));
  if (!text.ok) throw new ProblemError(text.error);
  if (text.value.remark !== null) console.error(`remark: ${text.value.remark}`);
  return text.value.text;
}

export interface ProjectOptions {
  readonly top?: string;
  readonly part?: string;
  readonly pins?: string;
}

/** A project folder, or loose sources with a part. */
export function openProject(paths: readonly string[], options: ProjectOptions): Project {
  const [first] = paths;
  if (first === undefined || !existsSync(first)) throw new CallError(`There is no file or folder ${first ?? ''}.`);
  if (!statSync(first).isDirectory()) return looseProject(paths, options);
  const read = readProject(
    filesBelow(first).map((path) => ({ name: relative(first, path).replaceAll('\\', '/'), text: readText(path) })),
  );
  if (!read.ok) throw new ProblemError(read.error);
  const migrated = migrationOf(readText(join(first, PROJECT_FILE)));
  if (migrated) console.error(`remark: ${migrated.message}`);
  const { file } = read.value;
  return { ...read.value, file: { ...file, top: options.top ?? file.top, part: options.part ?? file.part } };
}

function looseProject(paths: readonly string[], { top, part, pins }: ProjectOptions): Project {
  if (part === undefined) throw new CallError('Loose sources need --part.');
  const files = [...paths, ...(pins === undefined ? [] : [pins])].map((path) => ({
    name: basename(path),
    text: readText(path),
  }));
  return {
    file: {
      format: 'nimble-project',
      version: 3,
      grade: 2,
      accepted: [],
      name: top ?? basename(paths[0] ?? ''),
      part,
      top,
      pins: pins === undefined ? 'pins.csv' : basename(pins),
      clocks: {},
    },
    files,
  };
}

function filesBelow(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true })
    .flatMap((entry) =>
      entry.isDirectory()
        ? filesBelow(join(folder, entry.name))
        : SOURCES.test(entry.name)
          ? [join(folder, entry.name)]
          : [],
    )
    .sort();
}

/** Bench file that a project folder names for itself; null without one. */
export function benchOf(folder: string): string | null {
  const { bench } = openProject([folder], {}).file;
  return bench === undefined ? null : join(folder, bench);
}

/** What of a plan file goes into a build: all but what is switched off. */
export function openPlan(path: string | undefined): ProbePlan {
  if (path === undefined) return emptyPlan;
  const read = readPlanFile(readText(path), basename(path));
  if (!read.ok) throw new CallError(read.error.message);
  return activePlan([{ ...read.value, inBuild: true }]);
}
