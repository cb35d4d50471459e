import { z } from 'zod';
import { MOST_STEPS } from '../../core/operations/index.ts';
import { MOST_PULSE, planShelf, probePlan } from '../../core/probes/index.ts';
import { ProblemError, type Result, taken } from '../../core/result.ts';
import { call, DONE, inProject, router } from './procedures.ts';
import { tableChoice } from './shapes.ts';

const steps = z.number().int().min(0).max(MOST_STEPS);
const stepOrder = z.discriminatedUnion('way', [
  z.object({ way: z.enum(['hold', 'run']) }),
  z.object({ way: z.literal('step'), count: steps }),
  z.object({ way: z.literal('until'), condition: z.string().max(2000), most: steps }),
]);

/** A plan, and the others that are built in beside it. */
const planBeside = z.object({ plan: probePlan, others: probePlan });

/** Answer about a plan; of plans that change faster than they are priced the newest counts. */
type Priced<T> = { readonly superseded: true } | { readonly superseded: false; readonly answer: T };

/** Plans of debug cores, and what they cost. */
export const probe = router({
  shelf: inProject.query(({ ctx: { on, project } }) => on.store.projects.shelf(project.id)),
  saveShelf: inProject.input(planShelf).mutation(async ({ ctx: { on, project }, input }) => {
    await on.store.projects.saveShelf(project.id, input);
    on.state.changed();
    return DONE;
  }),

  /** What the cores of a plan, and of the others in the build, would take of what the design leaves. */
  cost: call
    .input(planBeside)
    .query(({ ctx: { on }, input: { plan, others } }) => priced(() => on.desks.probe.planCostNow(plan, others))),

  /** What stands while a clock is held, and what goes on; null where the design has no such clock. */
  standstill: call
    .input(z.object({ clock: z.string().max(500) }))
    .query(async ({ ctx: { on }, input }) => taken(await on.desks.probe.standstillNow(input.clock))),

  /** What of a plan it would be enough to give up where it does not fit; null where nothing is. */
  cheaper: call
    .input(planBeside)
    .query(({ ctx: { on }, input: { plan, others } }) => priced(() => on.desks.probe.cheaperPlanNow(plan, others))),
});

async function priced<T>(ask: () => Promise<Result<T>>): Promise<Priced<T>> {
  try {
    return { superseded: false, answer: taken(await ask()) };
  } catch (error) {
    // Nothing is wrong: a newer plan is being priced instead.
    if (error instanceof ProblemError && error.problem.code === 'superseded') return { superseded: true };
    throw error;
  }
}

/** The levers and gauges of what runs. */
export const drive = router({
  /**
   * Moves levers (null releases) and reads the panel; with nothing to move, only reads. With `cycles`, for so many
   * cycles of the panel's clock.
   */
  move: call
    .input(
      z.object({
        set: z.record(z.string(), z.bigint().nonnegative().nullable()),
        cycles: z.number().int().min(1).max(MOST_PULSE).optional(),
      }),
    )
    .mutation(async ({ ctx: { on }, input }) => taken(await on.desks.drive.driveNow(input.set, input.cycles ?? null))),

  /** Gives an order to a stepper; without one, only looks at it. */
  step: call
    .input(z.object({ stepper: z.string().max(200), order: stepOrder.nullable() }))
    .mutation(async ({ ctx: { on }, input }) => taken(await on.desks.drive.stepNow(input.stepper, input.order))),

  /** The debug cores that a table of the project needs to be run on the hardware. */
  tablePlan: inProject
    .input(tableChoice)
    .query(async ({ ctx: { on, project }, input }) => taken(await on.desks.drive.tablePlanNow(project, input))),

  /** Every combination of the inputs as a table, with what outputs are wanted to be. */
  truthTable: inProject
    .input(z.object({ wanted: z.string().max(4000), clock: z.string().max(500).optional() }))
    .query(async ({ ctx: { on, project }, input }) => ({
      text: taken(await on.desks.drive.truthTableNow(project, input.wanted, input.clock)),
    })),

  /** The newest run of a table on hardware. */
  table: inProject.query(({ ctx: { on, project } }) => on.store.tableRuns.latest(project.id)),
});
