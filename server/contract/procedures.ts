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
  /** The project that the caller has before them, whichever is open by now; null for the open one. */
  readonly shown: number | null;
}

/** Header that says it. */
const PROJECT_HEADER = 'x-nimble-project';

export const shownIn = (headers: Headers): number | null => {
  const shown = Number(headers.get(PROJECT_HEADER) ?? 0);
  return Number.isSafeInteger(shown) && shown > 0 ? shown : null;
};

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

/** A call about the project that the caller works on; null while there is none. */
export const inAnyProject = call.use(async ({ ctx, next }) => {
  const { projects } = ctx.on.store;
  const project = await (ctx.shown === null ? projects.current() : projects.row(ctx.shown));
  if (!project && ctx.shown !== null) throw new ProblemError(problem('no-project (gone)'));
  return next({ ctx: { ...ctx, project } });
});

export const inProject = inAnyProject.use(async ({ ctx, next }) => {
  const { project } = ctx;
  if (!project) throw new ProblemError(problem('no-project'));
  return next({ ctx: { ...ctx, project } });
});

export const { router } = trpc;

/** Answer of a call that has nothing more to tell than that it was carried out. */
export const DONE = { done: true } as const;
