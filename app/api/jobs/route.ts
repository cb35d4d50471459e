import { z } from 'zod';
import { operations, runtime } from '../../../server/index.ts';
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
  const server = await runtime();
  switch (wanted.kind) {
    case 'scan':
      return answer({ id: operations.scan(server) });
    case 'build':
      return answer({ id: operations.build(server) });
    case 'load':
      return answer({ id: operations.load(server, await server.loadPlan()) });
    case 'keep':
      return answer({ id: operations.keep(server, wanted.boot) });
    case 'rehearse':
      return answer({ id: operations.rehearse(server, wanted.by) });
    case 'flash-step':
      return answer({ id: operations.flashStep(server, wanted.step) });
    case 'compare':
      return answer({ id: operations.compareFlash(server, wanted.sources) });
    case 'diagnose':
      return answer({ id: operations.diagnose(server) });
    case 'sweep':
      return answer({ id: operations.sweep(server) });
    case 'integrity':
      return answer({ id: operations.integrity(server) });
    case 'interconnect':
      return answer({ id: operations.interconnect(server) });
    case 'flash':
      return answer({ id: operations.lookAtFlash(server) });
    case 'power':
      return answer({ id: operations.setPower(server, wanted.on) });
    case 'stage':
      return answer({ id: operations.stageAndRun(server, wanted.step) });
    case 'svf':
      return answer({ id: operations.playFile(server, wanted) });
  }
});
