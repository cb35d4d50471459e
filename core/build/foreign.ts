import { readBsdl } from '../bsdl/index.ts';
import { type Family, FAMILIES, foreignFamily } from '../families/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { Project } from './project.ts';

/** The family of the project's part where that is known by a BSDL file of the project; null where it names none. */
export function foreignOf({ file, files }: Pick<Project, 'file' | 'files'>): Result<Family> | null {
  const { foreign, part } = file;
  if (foreign === undefined) return null;
  const text = files.find(({ name }) => name === foreign.bsdl)?.text;
  if (text === undefined) return fail(problem('foreign-file', { bsdl: foreign.bsdl }));
  const { entity, problems } = readBsdl(text);
  const wrong = problems.find(({ severity }) => severity === 'error');
  if (!entity || wrong)
    return fail(
      problem('foreign-bsdl', { bsdl: foreign.bsdl, line: wrong?.line ?? 1, why: wrong?.message ?? 'no description' }),
    );
  if (entity.entity !== part)
    return fail(problem('foreign-part', { part, bsdl: foreign.bsdl, described: entity.entity }));
  return foreignFamily(entity, foreign);
}

/** All families that a project's operations use: those known here, and that of its own part. */
export function familiesOf(project: Pick<Project, 'file' | 'files'>): Result<readonly Family[]> {
  const foreign = foreignOf(project);
  if (!foreign) return ok(FAMILIES);
  return foreign.ok ? ok([...FAMILIES, foreign.value]) : foreign;
}
