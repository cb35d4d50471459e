import { z } from 'zod';
import { fail, ok, problem, type Result } from '../result.ts';

/** `nimble.json`: what a project is, besides its sources. docs/formats.md, section 2 */
export const projectFile = z.object({
  format: z.literal('nimble-project'),
  version: z.literal(1),
  name: z.string().min(1),
  part: z.string(),
  top: z.string().optional(),
  pins: z.string().default('pins.csv'),
  /** Frequency of each clock port, in hertz. */
  clocks: z.record(z.string(), z.number().positive()).default({}),
});

export type ProjectFile = z.infer<typeof projectFile>;

/** A project as the build takes it: everything by value, no paths. */
export interface Project {
  readonly file: ProjectFile;
  /** All files but `nimble.json`, by name. */
  readonly files: readonly { readonly name: string; readonly text: string }[];
}

export function readProject(files: readonly { readonly name: string; readonly text: string }[]): Result<Project> {
  const json = files.find((file) => file.name === 'nimble.json');
  if (!json) return fail(problem('no-project', 'There is no nimble.json here.', 'Name a project folder, or give the sources with --top, --part and --pins.'));
  let data: unknown;
  try {
    data = JSON.parse(json.text);
  } catch (error) {
    return fail(problem('project-file', `nimble.json is no JSON: ${(error as Error).message}.`, 'Compare it with docs/formats.md, section 2.'));
  }
  const read = projectFile.safeParse(data);
  if (!read.success) {
    const [first] = read.error.issues;
    return fail(problem('project-file', `nimble.json: ${first?.path.join('.') || 'the file'}: ${first?.message ?? ''}.`, 'Compare it with docs/formats.md, section 2.'));
  }
  return ok({ file: read.data, files: files.filter((file) => file !== json) });
}
