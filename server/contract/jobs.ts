import { z } from 'zod';
import { parameterNumbers } from '../../core/build/index.ts';
import { ProblemError } from '../../core/result.ts';
import { problem } from './problems.ts';
import { DEFAULT_PLAN } from '../board/index.ts';
import { call, DONE, inAnyProject, router } from './procedures.ts';
import { compareSource, flashStep, loadStep, simulationParameters, tableChoice } from './shapes.ts';

const order = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['scan', 'build', 'load', 'diagnose', 'sweep', 'integrity', 'interconnect', 'flash']) }),
  z.object({ kind: z.literal('power'), on: z.boolean() }),
  z.object({ kind: z.literal('keep'), boot: z.boolean().default(true) }),
  z.object({ kind: z.literal('rehearse'), by: z.enum(['power', 'reconfigure']).default('power') }),
  z.object({ kind: z.literal('flash-step'), step: flashStep }),
  z.object({ kind: z.literal('compare'), sources: z.tuple([compareSource, compareSource]).readonly() }),
  z.object({ kind: z.literal('stage'), step: loadStep }),
  z.object({
    kind: z.literal('pod-send'),
    source: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('build') }),
      z.object({ kind: z.enum(['image', 'svf']), id: z.number().int() }),
    ]),
  }),
  z.object({
    kind: z.literal('pod-run'),
    file: z.number().int(),
    device: z.number().int().nonnegative().nullable().default(null),
  }),
  z.object({
    kind: z.literal('svf'),
    file: z.number().int(),
    device: z.number().int().nonnegative().nullable(),
    goOn: z.boolean(),
    pauseAt: z.number().int().positive().nullable(),
  }),
  z.object({
    kind: z.literal('simulation'),
    testbench: z.string().min(1).max(500),
    parameters: simulationParameters,
    plusargs: z.array(z.string().max(500)).max(100).readonly(),
    until: z.string().max(50).nullable(),
  }),
  z.object({
    kind: z.literal('vectors'),
    file: z.string().max(200),
    clock: z.string().max(500).optional(),
    top: z.string().max(500).optional(),
    parameters: simulationParameters.optional(),
  }),
  tableChoice.extend({
    kind: z.literal('table'),
    seed: z.number().int().nonnegative().max(Number.MAX_SAFE_INTEGER).default(1),
    stopAtFirst: z.boolean().default(false),
    times: z.number().int().min(1).max(1000).default(1),
  }),
]);

/** Long work that can be asked for. */
export type JobOrder = z.input<typeof order>;

function open<T>(project: T | null): T {
  if (project === null) throw new ProblemError(problem('no-project'));
  return project;
}

/** Long work: started here, answered with its number; its progress comes with the events. */
export const jobs = router({
  start: inAnyProject.input(order).mutation(async ({ ctx: { on, project }, input }) => {
    const { bench, design, drive, keep, load } = on.desks;
    switch (input.kind) {
      case 'scan':
        return { id: bench.scan() };
      case 'diagnose':
        return { id: bench.diagnose() };
      case 'sweep':
        return { id: bench.sweep() };
      case 'integrity':
        return { id: bench.integrity() };
      case 'interconnect':
        return { id: bench.interconnect() };
      case 'power':
        return { id: bench.setPower(input.on) };
      case 'svf':
        return { id: bench.playFile(input) };
      case 'build':
        return { id: design.build(open(project)) };
      case 'vectors': {
        const { file, clock, top, parameters } = input;
        const options = {
          ...(clock ? { clock } : {}),
          ...(top ? { top } : {}),
          ...(parameters ? { parameters: parameterNumbers(parameters) } : {}),
        };
        return { id: design.vectors(open(project), file, options) };
      }
      case 'table':
        return { id: drive.runTableOn(open(project), input) };
      case 'simulation': {
        const { testbench, parameters, plusargs, until } = input;
        return { id: design.simulate(open(project), { testbench, parameters, plusargs, until }) };
      }
      case 'load':
        return { id: load.load((await on.facts.get('loadPlan')) ?? DEFAULT_PLAN) };
      case 'stage':
        return { id: load.stageAndRun(input.step) };
      case 'pod-send':
        return { id: bench.sendToPod(input.source) };
      case 'pod-run':
        return { id: bench.runAtPod(input.file, input.device) };
      case 'flash':
        return { id: keep.lookAtFlash() };
      case 'keep':
        return { id: keep.keep(input.boot) };
      case 'rehearse':
        return { id: keep.rehearse(input.by) };
      case 'flash-step':
        return { id: keep.flashStep(input.step) };
      case 'compare':
        return { id: keep.compareFlash(input.sources) };
    }
  }),

  /** Asks a job to stop. */
  cancel: call.input(z.object({ id: z.number().int() })).mutation(({ ctx: { on }, input }) => {
    if (!on.jobs.cancel(input.id)) throw new ProblemError(problem('job-ended'));
    return DONE;
  }),
});
