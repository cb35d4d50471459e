import { compareBuilds } from '../../../../core/build/index.ts';
import { ProblemError, problem } from '../../../../core/result.ts';
import { current } from '../../current.ts';
import { answer, guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** How build `after` differs from build `before`. */
export const GET = guarded(async (request) => {
  const { on, project } = await current();
  const query = new URL(request.url).searchParams;
  const [before, after] = await Promise.all([
    on.store.builds.get(project.id, Number(query.get('before'))),
    on.store.builds.get(project.id, Number(query.get('after'))),
  ]);
  if (!before || !after)
    throw new ProblemError(problem('no-build', 'One of the two builds is not kept any more.', 'Choose another one.'));
  return answer(compareBuilds(before.details, after.details));
});
