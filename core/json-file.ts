// Reading one of our own JSON files: well formed, of the expected form, or told what is not.
import type { z } from 'zod';
import { fail, ok, problem, type Result } from './result.ts';

/** `code` is the problem's; `section` where docs/formats.md describes the file. */
export function readJsonFile<T extends z.ZodType>(shape: T, about: { readonly code: string; readonly section: number }, name: string, text: string): Result<z.infer<T>> {
  const compare = `Compare it with docs/formats.md, section ${about.section}.`;
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem(about.code, `${name} is no JSON: ${(error as Error).message}.`, compare));
  }
  const read = shape.safeParse(data);
  if (read.success) return ok(read.data);
  const [first] = read.error.issues;
  if (first?.code === 'invalid_value' && first.path.join('.') === 'version' && typeof (data as { version?: unknown }).version === 'number')
    return fail(problem(about.code, `${name} is of version ${(data as { version: number }).version}; this release knows version ${first.values.join(' and ')}.`, `Open it with a newer release, or write it anew: docs/formats.md, section ${about.section}.`));
  return fail(problem(about.code, `${name}: ${first?.path.join('.') || 'the file'}: ${first?.message ?? 'not as expected'}.`, compare));
}
