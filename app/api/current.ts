import { ProblemError, problem } from '../../core/result.ts';
import { server } from '../../server/index.ts';

/** The server and the project being worked on. */
export async function current() {
  const on = await server();
  const project = await on.store.projects.current();
  if (!project)
    throw new ProblemError(problem('no-project', 'There is no project.', 'Create one, or import one, under Design.'));
  return { on, project };
}

/** Throws the problem of a result, or gives its value. */
export function taken<T>(
  result:
    | { readonly ok: true; readonly value: T }
    | { readonly ok: false; readonly error: ConstructorParameters<typeof ProblemError>[0] },
): T {
  if (!result.ok) throw new ProblemError(result.error);
  return result.value;
}

/** The same for a file, whose name goes before what is wrong with it. */
export const takenOf = <T>(name: string, result: Parameters<typeof taken<T>>[0]): T =>
  taken(result.ok ? result : { ok: false, error: { ...result.error, message: `${name}: ${result.error.message}` } });
