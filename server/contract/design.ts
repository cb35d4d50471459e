import { z } from 'zod';
import { applyInsertions, compareBuilds, fingerprintOf, lineOf } from '../../core/build/index.ts';
import { ProblemError, taken } from '../../core/result.ts';
import { problem } from './problems.ts';
import { DONE, inAnyProject, inProject, router } from './procedures.ts';
import { simulationParameters } from './shapes.ts';
import { waveView } from '../../core/wave/index.ts';

const drawing = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('instance'),
    path: z.string().max(2000),
    expanded: z.array(z.string().max(2000)).max(200).readonly(),
  }),
  z.object({ kind: z.literal('cone'), signal: z.string().max(2000) }),
]);

const testbench = z.string().min(1).max(500);

const insertion = z.object({
  file: z.string(),
  line: z.number().int().positive(),
  column: z.number().int().nonnegative(),
  insert: z.string().max(2000),
});
const fix = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('insert'), insertions: z.array(insertion).min(1).max(20).readonly() }),
  z.object({ kind: z.literal('set-top'), top: z.string().min(1).max(200) }),
  z.object({ kind: z.literal('constrain-clock'), clock: z.string(), hertz: z.number().positive() }),
]);

/** A change to the sources or settings that a message offers. */
export type Fix = z.input<typeof fix>;

/** Builds and what they say, and the sources as they stand. */
export const design = router({
  /** Messages, signals and probes of the newest build, and of the newest one that has a bitstream. */
  newest: inAnyProject.query(async ({ ctx: { on, project } }) => {
    if (!project) return { latest: null, usable: null };
    return { latest: await on.store.builds.latest(project.id), usable: await on.store.builds.latestGood(project.id) };
  }),

  /** The builds that are kept, newest first, in short. */
  builds: inProject.query(async ({ ctx: { on, project } }) =>
    (await on.store.builds.list(project.id)).map(({ id, created, milliseconds, good, details }) => ({
      id,
      created,
      milliseconds,
      good,
      fingerprint: details.fingerprint,
      part: details.part,
      resources: details.resources,
      highest: details.timing?.clocks.map(({ clock, highest, wanted }) => ({ clock, highest, wanted })) ?? [],
      messages: details.messages.length,
    })),
  ),

  /** How build `after` differs from build `before`. */
  compareBuilds: inProject
    .input(z.object({ before: z.number().int(), after: z.number().int() }))
    .query(async ({ ctx: { on, project }, input }) => {
      const [before, after] = await Promise.all([
        on.store.builds.get(project.id, input.before),
        on.store.builds.get(project.id, input.after),
      ]);
      if (!before || !after) throw new ProblemError(problem('no-build'));
      return compareBuilds(before.details, after.details);
    }),

  /** The ports and modules of the design as its sources stand, without a build. */
  ports: inProject.query(async ({ ctx: { on, project } }) =>
    on.pricing.ports(taken(await on.store.projects.open(project.id))),
  ),

  /** A drawing of the sources as they stand. */
  draw: inProject.input(drawing).query(async ({ ctx: { on, project }, input }) => {
    const opened = taken(await on.store.projects.open(project.id));
    const print = fingerprintOf({ files: opened.files, top: opened.file.top ?? null });
    return on.designs.draw(`${project.id} ${print}`, opened, input);
  }),

  /** The newest run of vectors, with its waveform. */
  vectors: inProject.query(({ ctx: { on, project } }) => on.store.vectorRuns.latest(project.id)),

  /** Modules of all files, testbenches first. */
  modules: inProject.query(async ({ ctx: { on, project } }) =>
    on.pricing.modules(taken(await on.store.projects.open(project.id)).files),
  ),

  /** The newest run of a testbench, without its dump. */
  simulation: inProject.query(({ ctx: { on, project } }) => on.store.simulations.latest(project.id)),

  /** Runs whose waves are kept, for a record of the hardware to be compared with. */
  simulations: inAnyProject.query(async ({ ctx: { on, project } }) =>
    project ? on.store.simulations.list(project.id) : [],
  ),

  /** How the waves of a testbench are looked at, whichever run of it. */
  testbenchView: inProject
    .input(z.object({ testbench }))
    .query(({ ctx: { on, project }, input }) => on.store.simulations.view(project.id, input.testbench)),

  saveTestbenchView: inProject
    .input(z.object({ testbench, view: waveView }))
    .mutation(async ({ ctx: { on, project }, input }) => {
      await on.store.simulations.saveView(project.id, input.testbench, input.view);
      return DONE;
    }),

  /** Keeps with the project what is simulated and how, and which files a build does not read. */
  setSimulation: inProject
    .input(
      z.object({
        only: z.array(z.string().max(500)).max(1000),
        testbench: z.string().max(500).optional(),
        parameters: simulationParameters,
        plusargs: z.array(z.string().max(500)).max(100),
        until: z.string().max(50).optional(),
        vectors: z
          .object({
            file: z.string().max(500).optional(),
            module: z.string().max(500).optional(),
            clock: z.string().max(500).optional(),
            parameters: simulationParameters,
          })
          .optional(),
      }),
    )
    .mutation(async ({ ctx: { on, project }, input }) => {
      taken(await on.store.projects.change(project.id, (file) => ({ ...file, simulation: input })));
      on.state.changed();
      return DONE;
    }),

  /** Carries out the change a message offers. */
  fix: inProject.input(fix).mutation(async ({ ctx: { on, project }, input }) => {
    const { projects } = on.store;
    if (input.kind === 'insert') {
      taken(await projects.edit(project.id, (files) => applyInsertions(files, input.insertions)));
    } else if (input.kind === 'set-top')
      taken(await projects.change(project.id, (file) => ({ ...file, top: input.top })));
    else {
      const clock = { [input.clock]: input.hertz };
      taken(await projects.change(project.id, (file) => ({ ...file, clocks: { ...file.clocks, ...clock } })));
    }
    on.state.changed();
    return DONE;
  }),

  /** Accepts a message with a reason, or takes the acceptance back. */
  accept: inProject
    .input(
      z.object({
        code: z.string(),
        file: z.string(),
        line: z.number().int().positive(),
        message: z.string(),
        reason: z.string().trim().min(1).max(500).nullable(),
      }),
    )
    .mutation(async ({ ctx: { on, project }, input: { code, file, line, message, reason } }) => {
      const { projects, builds } = on.store;
      const text = lineOf(await projects.files(project.id), { file, line });
      taken(
        await projects.change(project.id, (settings) => {
          const others = settings.accepted.filter(
            (a) => !(a.code === code && a.file === file && a.message === message),
          );
          return {
            ...settings,
            accepted: reason === null ? others : [...others, { code, file, message, line: text, reason }],
          };
        }),
      );
      await builds.rejudge(project.id, taken(await projects.open(project.id)));
      on.state.changed();
      return DONE;
    }),
});
