import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join, normalize, relative } from 'node:path';
import { decodeText, migrationOf, PROJECT_FILE, type Project, readProject } from '../core/build/index.ts';
import type { SourceFile } from '../core/hdl/index.ts';
import { activePlan, emptyPlan, type ProbePlan, readPlanFile } from '../core/probes/index.ts';
import { ProblemError } from '../core/result.ts';
import { CallError } from './output.ts';

const SOURCES = /\.(bsdl?|s?vh?|csv|hex|mem|json)$/;

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
  /** Folders in which what loose sources include is found. */
  readonly I?: readonly string[];
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

/** Files are called as they lie beside the first one, so that a build does not depend on where it is called. */
function looseProject(paths: readonly string[], { top, part, pins, I: folders = [] }: ProjectOptions): Project {
  if (part === undefined) throw new CallError('Loose sources need --part.');
  const named = (path: string) => relative(dirname(paths[0] ?? ''), path).replaceAll('\\', '/');
  const sources = withNamed(paths, folders).map(({ name, text }) => ({ name: named(name), text }));
  const files = [...sources, ...(pins === undefined ? [] : [{ name: named(pins), text: readText(pins) }])];
  return {
    file: {
      format: 'nimble-project',
      version: 3,
      grade: 2,
      accepted: [],
      name: top ?? basename(paths[0] ?? ''),
      part,
      top,
      pins: pins === undefined ? 'pins.csv' : named(pins),
      clocks: {},
    },
    files,
  };
}

/** Files that a source names: included ones, and data of memories. */
const NAMED = /`include\s+"([^"\n]+)"|\$readmem[hb]\s*\(\s*"([^"\n]+)"/g;
const MOST_FILES = 1000;

/** Files one by one with what they include and read: beside the file that names it, then in the folders given by -I. */
export function withNamed(paths: readonly string[], folders: readonly string[]): SourceFile[] {
  const found = new Map<string, SourceFile>();
  const open = paths.map((path) => normalize(path));
  for (let path = open.shift(); path !== undefined; path = open.shift()) {
    if (found.has(path) || found.size >= MOST_FILES) continue;
    const text = readText(path);
    found.set(path, { name: path.replaceAll('\\', '/'), text });
    for (const [, included, data] of text.matchAll(NAMED)) {
      const wanted = included ?? data ?? '';
      const place = [dirname(path), ...folders].map((folder) => join(folder, wanted)).find((one) => existsSync(one));
      if (place !== undefined && statSync(place).isFile()) open.push(normalize(place));
    }
  }
  return [...found.values()];
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

/** Verilog sources in a folder that is no project, and in those within it. */
export function sourcesBelow(folder: string): SourceFile[] {
  const files = filesBelow(folder).filter((path) => /\.(s?vh?|hex|mem)$/.test(path));
  if (!files.some((path) => /\.s?v$/.test(path))) throw new CallError(`${folder} has no Verilog sources.`);
  return files.map((path) => ({ name: relative(folder, path).replaceAll('\\', '/'), text: readText(path) }));
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
