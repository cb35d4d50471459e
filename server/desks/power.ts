import { fail, ok } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'board'>;

export function setPower(on: Needs, up: boolean): number {
  return on.jobs.start('cable', {
    kind: 'power',
    title: up ? 'Power on' : 'Power off',
    board: on.board.name,
    work: async () => {
      const { power } = on.board.hands().hands;
      if (!power) return fail(problem('no-control'));
      await on.board.cable(() => power(up));
      if (!up) {
        on.board.said.running = null;
        on.board.said.scan = null;
      } else on.board.boots();
      return ok(up ? 'The board has power.' : 'The board is off; what was not kept is gone.');
    },
  }).id;
}
