import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { PROJECT_FILE } from '../core/build/index.ts';
import type { SourceFile } from '../core/hdl/index.ts';
import { openProject, sourcesBelow, withNamed } from './files.ts';
import { CallError } from './output.ts';

/** Sources of a project folder, or of a folder of sources alone, or files one by one with what they include and read. */
export function sourcesOf(paths: readonly string[], folders: readonly string[]): SourceFile[] {
  const [first] = paths;
  if (first === undefined || !existsSync(first)) throw new CallError(`There is no file or folder ${first ?? ''}.`);
  if (statSync(first).isDirectory())
    return existsSync(join(first, PROJECT_FILE)) ? [...openProject(paths, {}).files] : sourcesBelow(first);
  return withNamed(paths, folders);
}
