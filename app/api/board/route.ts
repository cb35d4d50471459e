import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.union([
  z.object({ control: z.string(), on: z.boolean() }),
  z.object({ bootSource: z.enum(['flash', 'jtag']) }),
  z.object({ reconfigure: z.literal(true) }),
]);

/** The hands on the board: buttons, switches, the boot switch, the reconfigure button. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const on = await server();
  const hands = on.board.hands();
  if ('control' in wanted) await hands.operate(wanted.control, wanted.on);
  else if ('reconfigure' in wanted) await hands.reconfigure();
  else await hands.setBootSource(wanted.bootSource);
  if (!('control' in wanted)) on.board.boots();
  return answer({});
});
