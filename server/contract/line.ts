import { z } from 'zod';
import { bytesFromBase64 } from '../../core/bits/index.ts';
import { ProblemError } from '../../core/result.ts';
import { lineSettings } from '../../core/serial/index.ts';
import { call, DONE, router } from './procedures.ts';
import { problem } from './problems.ts';

const MOST_LINES = 5000;
const MOST_BASE64 = 1 << 17;
const LONGEST_BREAK = 5000;
const LONGEST_WAIT_SECONDS = 3600;

/** The serial line of the board in front of us. */
export const line = router({
  /** Lines from a number on; bytes as base64. */
  lines: call
    .input(z.object({ from: z.number().int().min(1), most: z.number().int().min(1).max(MOST_LINES) }))
    .query(({ ctx: { on }, input: { from, most } }) => on.desks.line.linesFrom(from, most)),

  /** Gives the settings that the pod made of these. */
  set: call.input(lineSettings).mutation(({ ctx: { on }, input }) => on.desks.line.setLineNow(input)),

  say: call.input(z.object({ bytes: z.string().max(MOST_BASE64) })).mutation(async ({ ctx: { on }, input }) => {
    let bytes: Uint8Array;
    try {
      bytes = bytesFromBase64(input.bytes);
    } catch {
      throw new ProblemError(problem('request', { why: 'The bytes are no base64.' }));
    }
    await on.desks.line.sayNow(bytes);
    return DONE;
  }),

  /** A break: the line is held at 0. */
  holdLow: call
    .input(z.object({ milliseconds: z.number().positive().max(LONGEST_BREAK) }))
    .mutation(async ({ ctx: { on }, input }) => {
      await on.desks.line.holdLowNow(input.milliseconds);
      return DONE;
    }),

  /** Forgets what waits at the pod to be sent. */
  drop: call.mutation(async ({ ctx: { on } }) => {
    await on.board.hands().dropOnLine();
    return DONE;
  }),

  /** Forgets all lines. */
  clear: call.mutation(({ ctx: { on } }) => {
    on.lines.clear();
    return DONE;
  }),

  /** Starts a job that ends when a text has come. */
  waitFor: call
    .input(z.object({ text: z.string().min(1).max(200), seconds: z.number().positive().max(LONGEST_WAIT_SECONDS) }))
    .mutation(({ ctx: { on }, input: { text, seconds } }) => ({ id: on.desks.line.waitForText(text, seconds) })),
});
