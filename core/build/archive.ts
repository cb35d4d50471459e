import { strToU8, unzipSync, zipSync } from 'fflate';
import { type PlanShelf, readShelf } from '../probes/index.ts';
import { fail, ok, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { PROJECT_FILE, type TextFile } from './project.ts';
import { decodeText } from './text-file.ts';

const PLAN_FILE = 'probes.plan.json';
const MOST_FILES = 2000;
const MOST_BYTES = 32 << 20;
/** Zip files date from 1980 on; a fixed date makes equal projects equal files. */
const DATE = new Date(1980, 0, 1);
const NAME = /^[\w+-][\w.+-]*(?:\/[\w+-][\w.+-]*)*$/;
const LONGEST_NAME = 200;
const TAKEN = /\.(bsdl?|s?vh?|csv|hex|mem|json|md|txt)$/;

interface ProjectArchive {
  readonly files: readonly TextFile[];
  readonly shelf: PlanShelf;
}

interface ArchiveRead extends ProjectArchive {
  /** Of files that are taken although they are not as they should be. */
  readonly remarks: readonly string[];
}

/** Why a file name cannot be taken; null for a good one. */
export function nameTrouble(name: string): string | null {
  if (name.length > LONGEST_NAME) return `The name is longer than ${LONGEST_NAME} characters.`;
  return NAME.test(name) ? null : `"${name}" is no file name here: letters, digits, _ . + -, folders divided by /.`;
}

/** A project as one zip file: the same project gives the same bytes. */
export function writeArchive({ files, shelf }: ProjectArchive): Uint8Array {
  const all = [
    ...files,
    ...(shelf.length > 0 ? [{ name: PLAN_FILE, text: `${JSON.stringify(shelf, null, 2)}\n` }] : []),
  ].sort((a, b) => (a.name < b.name ? -1 : 1));
  return zipSync(
    Object.fromEntries(all.map(({ name, text }) => [name, [strToU8(text), { mtime: DATE }] as const])) as Parameters<
      typeof zipSync
    >[0],
    { level: 6 },
  );
}

/** Reads a zip file of a project, or of loose sources. A single folder around everything is dropped. */
export function readArchive(bytes: Uint8Array): Result<ArchiveRead> {
  let count = 0;
  let size = 0;
  let unpacked: Record<string, Uint8Array>;
  if (!isDirectorySound(bytes)) return fail(problem('zip'));
  try {
    unpacked = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name.endsWith('/') || name.includes('__MACOSX') || !TAKEN.test(name)) return false;
        count++;
        size += originalSize;
        return count <= MOST_FILES && size <= MOST_BYTES;
      },
    });
  } catch {
    return fail(problem('zip'));
  }
  if (count > MOST_FILES || size > MOST_BYTES)
    return fail(problem('too-large', { mostFiles: MOST_FILES, mostBytes: MOST_BYTES >> 20 }));
  const names = Object.keys(unpacked);
  const folder = commonFolder(names);
  const files: TextFile[] = [];
  const remarks: string[] = [];
  for (const [path, data] of Object.entries(unpacked)) {
    const name = path.slice(folder.length);
    const trouble = nameTrouble(name);
    if (trouble) return fail(plainProblem('file-name', trouble, 'Rename the file and pack it again.'));
    const text = decodeText(name, data);
    if (!text.ok) return text;
    files.push({ name, text: text.value.text });
    if (text.value.remark !== null) remarks.push(text.value.remark);
  }
  if (files.length === 0) return fail(problem('zip (no sources)'));
  const planText = files.find((file) => file.name === PLAN_FILE)?.text;
  let plans: unknown = [];
  try {
    if (planText !== undefined) plans = JSON.parse(planText);
  } catch (error) {
    return fail(problem('plan-file', { name: PLAN_FILE, why: error instanceof Error ? error.message : '' }));
  }
  return ok({
    files: files.filter((file) => file.name !== PLAN_FILE),
    shelf: planText === undefined ? [] : readShelf(plans),
    remarks,
  });
}

const END_MARK = 0x06054b50;
const END_BYTES = 22;
const LONGEST_COMMENT = 0xffff;
const ENTRY_BYTES = 46;

/**
 * Whether the directory can have as many entries as the file claims: what unpacks it believes the claim, and would
 * count to 2^32. Large files, whose counts stand elsewhere, are none of a project.
 *
 * @source PKWARE, .ZIP file format specification 6.3.10, 4.3.12 and 4.3.16
 */
function isDirectorySound(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const first = Math.max(0, bytes.length - END_BYTES - LONGEST_COMMENT);
  let end = bytes.length - END_BYTES;
  while (end >= first && view.getUint32(end, true) !== END_MARK) end--;
  if (end < first) return false;
  const entries = view.getUint16(end + 10, true);
  const from = view.getUint32(end + 16, true);
  return view.getUint16(end + 8, true) === entries && entries < 0xffff && from + entries * ENTRY_BYTES <= end;
}

/**
 * The folder that everything lies in, with its slash; empty where there is none, or where nimble.json lies outside it.
 */
function commonFolder(names: readonly string[]): string {
  const [first = ''] = names;
  const folder = first.slice(0, first.indexOf('/') + 1);
  return folder !== '' &&
    names.every((name) => name.startsWith(folder)) &&
    !names.includes(PROJECT_FILE) &&
    names.includes(folder + PROJECT_FILE)
    ? folder
    : '';
}
