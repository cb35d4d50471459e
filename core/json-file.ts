// Reading one of our own JSON files: well formed, of the expected form, or told what is not.
import { z } from 'zod';
import { fail, ok, problem, type Result } from './result.ts';

/** `code` is the problem's; `section` where docs/formats.md describes the file. */
export function readJsonFile<T extends z.ZodType>(
  shape: T,
  about: { readonly code: string; readonly section: number },
  name: string,
  text: string,
): Result<z.infer<T>> {
  const compare = `Compare it with docs/formats.md, section ${about.section}.`;
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem(about.code, `${name} is no JSON: ${(error as Error).message}.`, compare));
  }
  const read = shape.safeParse(data);
  if (read.success) return ok(read.data);
  const version = otherVersion(data, read.error);
  if (version !== null)
    return fail(
      problem(
        about.code,
        `${name} is ${version}`,
        `Open it with a newer release, or write it anew: docs/formats.md, section ${about.section}.`,
      ),
    );
  const [first] = read.error.issues;
  return fail(
    problem(
      about.code,
      `${name}: ${first?.path.join('.') || 'the file'}: ${first?.message ?? 'not as expected'}.`,
      compare,
    ),
  );
}

/**
 * "of version 7; this release knows version 1.", where a file was refused for its version; null where it was for
 * anything else.
 */
export function otherVersion(data: unknown, { issues }: z.ZodError): string | null {
  const known = issues.find(({ path }) => path.join('.') === 'version');
  if (
    known?.code !== 'invalid_value' ||
    typeof data !== 'object' ||
    data === null ||
    !('version' in data) ||
    typeof data.version !== 'number'
  )
    return null;
  return `of version ${data.version}; this release knows version ${known.values.join(' and ')}.`;
}

const MOST_TOLD = 5;
const LONGEST_TOLD = 2000;

/** The first few of what a value has wrong: a list of a thousand wrong ones is told as briefly. */
export function issuesTold({ issues }: z.ZodError): string {
  const told = z.prettifyError(new z.ZodError(issues.slice(0, MOST_TOLD))).slice(0, LONGEST_TOLD);
  return issues.length > MOST_TOLD ? `${told}\nand ${issues.length - MOST_TOLD} more` : told;
}
