import { z } from 'zod';
import { base64FromBytes } from '../../core/bits/index.ts';
import { ProblemError, taken } from '../../core/result.ts';
import { problem } from './problems.ts';
import { waveView } from '../../core/wave/index.ts';
import { call, DONE, inAnyProject, inProject, router } from './procedures.ts';

const recorder = z.object({ recorder: z.string() });
const one = z.object({ id: z.number().int() });

/** A call about one capture of the project being worked on. */
const ofCapture = inProject.input(one).use(async ({ ctx, input, next }) => {
  const row = await ctx.on.store.captures.get(ctx.project.id, input.id);
  if (!row) throw new ProblemError(problem('no-capture'));
  return next({ ctx: { ...ctx, row } });
});

/** Recorders on the board, and what they brought. */
export const capture = router({
  arm: call
    .input(
      recorder.extend({
        when: z.string().max(2000),
        keep: z.string().max(2000).optional(),
        before: z.number().int(),
        segments: z.number().int().optional(),
        repeat: z.enum(['once', 'every', 'different']).optional(),
      }),
    )
    .mutation(async ({ ctx: { on }, input }) => ({ id: taken(await on.desks.capture.capture(input)) })),
  /** Goes on with a recorder that was armed before. */
  resume: call
    .input(recorder)
    .mutation(async ({ ctx: { on }, input }) => ({ id: taken(await on.desks.capture.resumeCapture(input.recorder)) })),
  /** Triggers an armed recorder by hand. */
  trigger: call
    .input(recorder)
    .mutation(async ({ ctx: { on }, input }) => ({ id: taken(await on.desks.capture.triggerNow(input.recorder)) })),
  /** Stops a recorder that has triggered, and keeps what it holds. */
  halt: call
    .input(recorder)
    .mutation(async ({ ctx: { on }, input }) => ({ id: taken(await on.desks.capture.haltNow(input.recorder)) })),

  /** So many of the captures, newest first, from before a number on; and how much is kept of how much. */
  list: inAnyProject
    .input(
      z
        .object({
          before: z.number().int().nullable().default(null),
          limit: z.number().int().min(1).max(500).default(100),
        })
        .default({ before: null, limit: 100 }),
    )
    .query(async ({ ctx: { on, project }, input: { before, limit } }) =>
      project ? on.store.captures.list(project.id, before, limit) : null,
    ),
  /** One capture; its samples as base64. */
  read: ofCapture.query(({ ctx: { row } }) => {
    const { id, created, capture, view } = row;
    const { data, ...about } = capture;
    return { id, created, about, view, data: base64FromBytes(data.bytes) };
  }),
  saveView: ofCapture.input(z.object({ view: waveView })).mutation(async ({ ctx: { on, project }, input }) => {
    await on.store.captures.saveView(project.id, input.id, input.view);
    return DONE;
  }),
  /** Whether others are compared with it. */
  setReference: ofCapture
    .input(z.object({ isReference: z.boolean() }))
    .mutation(async ({ ctx: { on, project }, input }) => {
      await on.store.captures.setReference(project.id, input.isReference ? input.id : null);
      return DONE;
    }),
  remove: ofCapture.mutation(async ({ ctx: { on, project }, input }) => {
    await on.store.captures.remove(project.id, input.id);
    on.state.changed();
    return DONE;
  }),

  /** Ways of looking that have a name. */
  views: inAnyProject.query(async ({ ctx: { on, project } }) => (project ? on.store.captures.views(project.id) : [])),
  /** Saves one; null forgets it. */
  saveNamedView: inProject
    .input(z.object({ name: z.string().trim().min(1).max(60), view: waveView.nullable() }))
    .mutation(async ({ ctx: { on, project }, input: { name, view } }) => {
      await on.store.captures.saveNamedView(project.id, name, view);
      return DONE;
    }),
});
