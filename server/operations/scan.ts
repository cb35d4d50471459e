import { scanChain } from '../../core/operations/index.ts';
import { fail, ok } from '../../core/result.ts';
import { climbNow } from './bench.ts';
import type { Runtime } from '../runtime.ts';

export function scan(on: Runtime): number {
  return on.jobs.start('cable', {
    kind: 'scan',
    title: 'Scan',
    board: on.board,
    work: async () => {
      const found = await on.pod.cable((cable) => scanChain(cable));
      on.scan = { ...found, time: new Date().toISOString() };
      const [first] = found.problems;
      if (first) {
        await climbNow(on);
        return fail(first);
      }
      await on.lookAtBoard();
      return ok(`${found.devices.length} devices, ${found.irTotal} instruction bits, ${found.tckCycles} TCK cycles.`);
    },
  }).id;
}
