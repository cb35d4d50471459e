import { initTRPC, TRPCError } from '@trpc/server';
import { z } from 'zod';
import { jsonIntegersWithin } from '../../core/json-integers.ts';
import { type Problem, ProblemError, problem as plainProblem } from '../../core/result.ts';
import { issuesTold } from '../../core/json-file.ts';
import { problem } from './problems.ts';
import type { Server } from '../assemble.ts';

/** What every call is given. */
interface Context {
  readonly on: Server;
}

/** Of one call: a plan or a drawing with everything opened has a tenth of it. */
const MOST_VALUES = 200_000;

const trpc = initTRPC.context<Context>().create({
  transformer: jsonIntegersWithin(MOST_VALUES),
  errorFormatter: ({ shape, error }) => ({
    ...shape,
    data: { code: shape.data.code, httpStatus: shape.data.httpStatus, problem: problemOf(error) },
  }),
});

/** What a person can act on of a call that failed. */
function problemOf(error: TRPCError): Problem {
  if (error.cause instanceof ProblemError) return error.cause.problem;
  if (error.code === 'BAD_REQUEST' && error.cause instanceof z.ZodError)
    return problem('request', { why: issuesTold(error.cause) });
  if (error.code === 'INTERNAL_SERVER_ERROR') return problem('defect', { message: error.message });
  return plainProblem('request', error.message, 'Reload the page.');
}

/** A call. A problem on its way up is the caller's to mend, not a defect of the server. */
export const call = trpc.procedure.use(async ({ next }) => {
  const result = await next();
  if (!result.ok && result.error.cause instanceof ProblemError)
    throw new TRPCError({
      code: 'UNPROCESSABLE_CONTENT',
      message: result.error.cause.message,
      cause: result.error.cause,
    });
  return result;
});

/** A call about the project being worked on. */
export const inProject = call.use(async ({ ctx, next }) => {
  const project = await ctx.on.store.projects.current();
  if (!project) throw new ProblemError(problem('no-project'));
  return next({ ctx: { ...ctx, project } });
});

export const { router } = trpc;

/** Answer of a call that has nothing more to tell than that it was carried out. */
export const DONE = { done: true } as const;
