import { counted } from '../../core/words.ts';
import { fail, ok } from '../../core/result.ts';
import { climbNow } from './bench.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'project' | 'changed'>;

export function scan(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'scan',
    title: 'Scan',
    board: on.board.name,
    work: async () => {
      const found = await on.board.cable((chain) => chain.rescan());
      const [first] = found.problems;
      if (first) {
        await climbNow(on);
        return fail(first);
      }
      await on.board.look();
      return ok(
        `${counted(found.devices.length, 'device')}, ${found.irTotal} instruction bits, ${found.tckCycles} TCK cycles.`,
      );
    },
  }).id;
}
