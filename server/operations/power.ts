import { fail, ok, problem } from '../../core/result.ts';
import type { Runtime } from '../runtime.ts';

export function setPower(on: Runtime, up: boolean): number {
  return on.jobs.start('cable', {
    kind: 'power',
    title: up ? 'Power on' : 'Power off',
    board: on.board,
    work: async () => {
      const { power } = on.pod.hands().hands;
      if (!power) return fail(problem('no-control', 'This pod has no power switch.', 'Switch the board by hand.'));
      await on.pod.cable(() => power(up));
      if (!up) {
        on.said.running = null;
        on.said.scan = null;
      }
      return ok(up ? 'The board has power.' : 'The board is off; what was not kept is gone.');
    },
  }).id;
}
