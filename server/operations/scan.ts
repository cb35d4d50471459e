import { counted } from '../../core/words.ts';
import { fail, ok } from '../../core/result.ts';
import { climbNow } from './bench.ts';
import type { Runtime } from '../runtime.ts';

export function scan(on: Runtime): number {
  return on.jobs.start('cable', {
    kind: 'scan',
    title: 'Scan',
    board: on.board,
    work: async () => {
      const found = await on.pod.cable((chain) => chain.rescan());
      const [first] = found.problems;
      if (first) {
        await climbNow(on);
        return fail(first);
      }
      await on.lookAtBoard();
      return ok(
        `${counted(found.devices.length, 'device')}, ${found.irTotal} instruction bits, ${found.tckCycles} TCK cycles.`,
      );
    },
  }).id;
}
