import { z } from 'zod';
import { DEFAULT_PLAN, server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';
import { compareSource, flashStep, loadStep } from '../shapes.ts';

const body = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['scan', 'build', 'load', 'diagnose', 'sweep', 'integrity', 'interconnect', 'flash']) }),
  z.object({ kind: z.literal('power'), on: z.boolean() }),
  z.object({ kind: z.literal('keep'), boot: z.boolean().default(true) }),
  z.object({ kind: z.literal('rehearse'), by: z.enum(['power', 'reconfigure']).default('power') }),
  z.object({ kind: z.literal('flash-step'), step: flashStep }),
  z.object({ kind: z.literal('compare'), sources: z.tuple([compareSource, compareSource]) }),
  z.object({ kind: z.literal('stage'), step: loadStep }),
  z.object({
    kind: z.literal('svf'),
    file: z.number().int(),
    device: z.number().int().nonnegative().nullable(),
    goOn: z.boolean(),
    pauseAt: z.number().int().positive().nullable(),
  }),
]);

/** Starts a job; its progress comes with the events. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const on = await server();
  switch (wanted.kind) {
    case 'scan':
      return answer({ id: on.desks.bench.scan() });
    case 'build':
      return answer({ id: on.desks.design.build() });
    case 'load':
      return answer({ id: on.desks.load.load((await on.facts.get('loadPlan')) ?? DEFAULT_PLAN) });
    case 'keep':
      return answer({ id: on.desks.keep.keep(wanted.boot) });
    case 'rehearse':
      return answer({ id: on.desks.keep.rehearse(wanted.by) });
    case 'flash-step':
      return answer({ id: on.desks.keep.flashStep(wanted.step) });
    case 'compare':
      return answer({ id: on.desks.keep.compareFlash(wanted.sources) });
    case 'diagnose':
      return answer({ id: on.desks.bench.diagnose() });
    case 'sweep':
      return answer({ id: on.desks.bench.sweep() });
    case 'integrity':
      return answer({ id: on.desks.bench.integrity() });
    case 'interconnect':
      return answer({ id: on.desks.bench.interconnect() });
    case 'flash':
      return answer({ id: on.desks.keep.lookAtFlash() });
    case 'power':
      return answer({ id: on.desks.bench.setPower(wanted.on) });
    case 'stage':
      return answer({ id: on.desks.load.stageAndRun(wanted.step) });
    case 'svf':
      return answer({ id: on.desks.bench.playFile(wanted) });
  }
});
