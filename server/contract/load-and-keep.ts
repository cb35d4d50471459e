import { z } from 'zod';
import { ProblemError, taken } from '../../core/result.ts';
import { problem } from './problems.ts';
import { bytesOf, DEFAULT_PLAN, placesOf } from '../board/index.ts';
import { ALONE, chosenAnew, keepChange } from '../store/index.ts';
import type { Server } from '../assemble.ts';
import { call, DONE, inAnyProject, router } from './procedures.ts';
import { loadStep } from './shapes.ts';

/** What goes into which FPGA. */
export const load = router({
  /** What can be known before the first bit. */
  checks: call.input(loadStep).query(async ({ ctx: { on }, input }) => taken(await on.desks.load.checksNow(input))),

  /** What Load is to put where. What is not given stays. */
  setPlan: inAnyProject
    .input(z.object({ steps: z.array(loadStep).min(1).max(100).readonly(), verify: z.boolean() }).partial())
    .mutation(async ({ ctx: { on, project }, input: { steps, verify } }) => {
      await on.facts.change(
        'loadPlan',
        (now) => {
          const plan = now ?? DEFAULT_PLAN;
          return { steps: [...(steps ?? plan.steps)], verify: verify ?? plan.verify };
        },
        project,
      );
      on.state.changed();
      return DONE;
    }),

  /** What was put into which FPGA, newest first. */
  history: call.query(({ ctx: { on } }) => on.store.files.loads()),

  /** Files that were added for Load and Keep, newest first. */
  images: call.query(({ ctx: { on } }) => on.store.files.images()),
  imagesKept: call.query(({ ctx: { on } }) => on.store.files.imagesKept()),
  removeImage: call
    .input(z.object({ id: z.number().int() }))
    .mutation(async ({ ctx: { on }, input }) => ({ removed: await on.desks.load.removeImage(input.id) })),
});

/** What goes into the flash. */
export const keep = router({
  /** What Keep is to write, and how its boot is rehearsed. What is not given stays; of the values, too. */
  choose: inAnyProject.input(keepChange).mutation(async ({ ctx: { on, project }, input }) => {
    await on.facts.change('keepChoice', (now) => chosenAnew(now ?? ALONE, input), project);
    on.board.said.flash = null;
    on.state.changed();
    return DONE;
  }),

  /** Of the last comparison: where it differs, and the bytes of a stretch. */
  comparison: call.query(({ ctx: { on } }) => placesOf(compared(on))),
  comparedBytes: call
    .input(z.object({ start: z.number().int().nonnegative(), length: z.number().int().min(1).max(65_536) }))
    .query(({ ctx: { on }, input }) => bytesOf(compared(on), input.start, input.length)),
});

function compared(on: Server) {
  const { comparison } = on.board.said;
  if (!comparison) throw new ProblemError(problem('no-comparison'));
  return comparison;
}
