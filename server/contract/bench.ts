import { z } from 'zod';
import { isDesignJob } from '../jobs/index.ts';
import { readChainFile, writeChainFile } from '../../core/chain/index.ts';
import { ProblemError, taken } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Server } from '../assemble.ts';
import { call, DONE, router } from './procedures.ts';

/** Of one register that is shifted by hand. */
const MOST_HAND_BITS = 1 << 16;

const place = z.number().int().min(0).max(200);
const chainText = z.string().max(1 << 20);

/** The pod, the chain behind it, and the hands on the board. */
export const bench = router({
  /** Pods that were connected once; their tokens stay here. */
  pods: call.query(async ({ ctx: { on } }) => {
    const rows = await on.store.pods.list();
    const given = process.env.NIMBLE_POD_ADDRESS;
    return given === undefined || rows.some(({ address }) => address === given)
      ? rows
      : [{ address: given, added: null }, ...rows];
  }),

  /** Names the pod to use; an empty token keeps the one known for that address. */
  usePod: call
    .input(z.object({ address: z.url({ protocol: /^wss?$/ }), token: z.string().max(200) }))
    .mutation(async ({ ctx: { on }, input: { address, token } }) => {
      refuseWhileInUse(on, address);
      const given = address === process.env.NIMBLE_POD_ADDRESS ? (process.env.NIMBLE_POD_TOKEN ?? '') : '';
      const used = token === '' ? ((await on.store.pods.tokenOf(address)) ?? given) : token;
      await on.board.use(address, used);
      if (on.board.pod.state === 'connected') await on.store.pods.remember(address, used);
      return on.board.pod;
    }),

  forgetPod: call
    .input(z.object({ address: z.string() }))
    .mutation(async ({ ctx: { on }, input }) => ({ removed: await on.store.pods.forget(input.address) })),

  /** Tells whoever holds the connected pod that it is wanted here. */
  askForLease: call.mutation(async ({ ctx: { on } }) => {
    await on.board.hands().askForLease();
    return DONE;
  }),

  /** Sets TCK; the pod takes the nearest it can. */
  setFrequency: call
    .input(z.object({ hz: z.number().positive().max(1e9) }))
    .mutation(async ({ ctx: { on }, input: { hz } }) => {
      await on.board.cable((chain) => chain.cable.setFrequency(hz, true));
      on.state.changed();
      return { hz: on.board.tckHz };
    }),

  /** What is expected on the board that answers now; null goes back to what the project's files expect. */
  expectChain: call
    .input(z.object({ text: chainText.nullable() }))
    .mutation(async ({ ctx: { on }, input: { text } }) => {
      const expected = text === null ? null : { text: writeChainFile(taken(readChainFile('board.chain.json', text))) };
      await on.facts.set('chain', expected);
      on.state.changed();
      return DONE;
    }),

  /**
   * What stands at a place of this board: remembered as long as the place answers with the same IDCODE. Then scans
   * again.
   */
  answerPlace: call
    .input(
      z.object({
        index: place,
        part: z.string().max(100).optional(),
        irLength: z.number().int().min(2).max(512).optional(),
      }),
    )
    .mutation(async ({ ctx: { on }, input: { index, part, irLength } }) => {
      await on.store.files.answer(on.board.name, {
        index,
        idcode: on.board.said.scan?.devices[index]?.idcode ?? null,
        ...(part === undefined ? {} : { part }),
        ...(irLength === undefined ? {} : { irLength }),
      });
      return { id: on.desks.bench.scan() };
    }),

  /** Pins by their boundary registers. */
  lookAtPins: call.query(async ({ ctx: { on } }) => taken(await on.desks.bench.lookAtPins())),
  drivePin: call
    .input(z.object({ place, pin: z.string().max(40), level: z.union([z.literal(0), z.literal(1)]).nullable() }))
    .mutation(async ({ ctx: { on }, input: { place, pin, level } }) =>
      taken(await on.desks.bench.drivePin(place, pin, level)),
    ),
  releasePins: call.mutation(async ({ ctx: { on } }) => {
    await on.desks.bench.releasePins();
    return taken(await on.desks.bench.lookAtPins());
  }),

  /** Descriptions of devices that are kept for all projects. */
  descriptions: call.query(({ ctx: { on } }) => on.desks.bench.keptDescriptions()),
  forgetDescription: call.input(z.object({ name: z.string().max(200) })).mutation(async ({ ctx: { on }, input }) => {
    const removed = await on.store.files.removeDescription(input.name);
    on.state.changed();
    return { removed };
  }),

  /** One instruction and one register by hand. */
  instructionsAt: call
    .input(z.object({ place }))
    .query(({ ctx: { on }, input }) => on.desks.bench.instructionsNow(input.place)),
  shift: call
    .input(
      z.object({
        place,
        opcode: z.string().regex(/^[01]{1,512}$/),
        data: z
          .object({
            value: z
              .string()
              .max(MOST_HAND_BITS)
              .regex(/^0x[0-9a-fA-F]+$/),
            length: z.number().int().min(1).max(MOST_HAND_BITS),
          })
          .nullable(),
      }),
    )
    .mutation(async ({ ctx: { on }, input }) => taken(await on.desks.bench.shiftNow(input))),

  /** Buttons and switches of the board, where its pod can move them. */
  operate: call
    .input(z.object({ control: z.string().max(200), on: z.boolean() }))
    .mutation(async ({ ctx: { on }, input }) => {
      await on.board.hands().operate(input.control, input.on);
      return DONE;
    }),
  /** Has the simulated pod stand on the bench of a file; what ran on the one before is gone. */
  useBench: call.input(z.object({ text: z.string().max(1 << 20) })).mutation(async ({ ctx: { on }, input }) => {
    await on.board.useBench(input.text);
    return { name: on.board.name };
  }),

  /** Sets what a dial of the board reads. */
  turn: call
    .input(z.object({ control: z.string().max(100), value: z.number() }))
    .mutation(async ({ ctx: { on }, input }) => {
      await on.board.hands().turn(input.control, input.value);
      return DONE;
    }),
  setBootSource: call
    .input(z.object({ source: z.enum(['flash', 'jtag']) }))
    .mutation(async ({ ctx: { on }, input }) => {
      await on.board.hands().setBootSource(input.source);
      on.board.boots();
      return DONE;
    }),
  reconfigure: call.mutation(async ({ ctx: { on } }) => {
    await on.board.hands().reconfigure();
    on.board.boots();
    return DONE;
  }),

  /** Makes something go wrong on a bench that can, for practice, or mends it. */
  setFault: call
    .input(z.object({ name: z.string().max(60), on: z.boolean() }))
    .mutation(async ({ ctx: { on }, input: fault }) => {
      await on.board
        .hands()
        .setFault(fault.name, fault.on)
        .catch((error: unknown) => {
          // The fault that breaks the connection answers nobody.
          if (fault.name !== 'pod-lost') throw error;
        });
      const action = fault.on ? 'Practice fault on' : 'Practice fault off';
      await on.store.logbook.record(action, on.board.name, { fault: fault.name }, await on.project.name());
      return DONE;
    }),

  /** What the pod holds and carries out by itself; with its log while it runs and after. */
  podFiles: call.query(({ ctx: { on } }) => on.desks.bench.podFilesNow()),
  stopAtPod: call.input(z.object({ file: z.number().int() })).mutation(async ({ ctx: { on }, input }) => {
    await on.board.hands().stopStaged(input.file);
    return DONE;
  }),
  dropAtPod: call.input(z.object({ file: z.number().int() })).mutation(async ({ ctx: { on }, input }) => {
    await on.board.hands().dropStaged(input.file);
    return DONE;
  }),

  /** SVF files of this bench, newest first. */
  svfFiles: call.query(async ({ ctx: { on } }) => ({ files: await on.svf.files(), kept: await on.svf.kept() })),
  removeSvfFile: call.input(z.object({ id: z.number().int() })).mutation(async ({ ctx: { on }, input }) => {
    if (!(await on.svf.forget(input.id))) throw new ProblemError(problem('svf-played'));
    return DONE;
  }),

  /** The hand on the player. */
  controlSvf: call
    .input(
      z.object({
        action: z.enum(['pause', 'go', 'step']),
        pauseAt: z.number().int().positive().nullable().default(null),
      }),
    )
    .mutation(({ ctx: { on }, input: { action, pauseAt } }) => {
      on.svf.control(action, pauseAt);
      return DONE;
    }),
});

function refuseWhileInUse(on: Server, address: string): void {
  const busy = on.jobs.list.find((job) => job.endedAt === null && !isDesignJob(job.kind));
  if (busy && address !== on.board.pod.address)
    throw new ProblemError(problem('pod-in-use', { title: busy.title, name: on.board.pod.name ?? 'the pod' }));
}
