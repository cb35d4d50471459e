import { existsSync, statSync } from 'node:fs';
import type { SourceFile } from '../core/hdl/index.ts';
import { openProject, withNamed } from './files.ts';
import { CallError } from './output.ts';

/** Sources of a project folder, or files one by one with what they include and read. */
export function sourcesOf(paths: readonly string[], folders: readonly string[]): SourceFile[] {
  const [first] = paths;
  if (first === undefined || !existsSync(first)) throw new CallError(`There is no file or folder ${first ?? ''}.`);
  if (statSync(first).isDirectory()) return [...openProject(paths, {}).files];
  return withNamed(paths, folders);
}
