import { problem } from '../../../../core/result.ts';
import { server } from '../../../../server/index.ts';
import { answer, failure, guarded } from '../../guard.ts';

/** Asks a job to stop. */
export const DELETE = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const on = await server();
  return on.jobs.cancel(Number((await params).id))
    ? answer({})
    : failure(problem('job-ended', 'This job has ended already.', 'Look at the job line for how it ended.'), 404);
});
