import { existsSync, statSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import type { SourceFile } from '../core/hdl/index.ts';
import { openProject, readText } from './files.ts';
import { CallError } from './output.ts';

/** Files that a source names: included ones, and data of memories. */
const NAMED = /`include\s+"([^"\n]+)"|\$readmem[hb]\s*\(\s*"([^"\n]+)"/g;
const MOST_FILES = 1000;

/**
 * Sources of a project folder, or files one by one with what they include and read: beside the file that names it,
 * then in the folders given by -I.
 */
export function sourcesOf(paths: readonly string[], folders: readonly string[]): SourceFile[] {
  const [first] = paths;
  if (first === undefined || !existsSync(first)) throw new CallError(`There is no file or folder ${first ?? ''}.`);
  if (statSync(first).isDirectory()) return [...openProject(paths, {}).files];
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
