import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.union([
  z.object({ control: z.string(), on: z.boolean() }),
  z.object({ bootSource: z.enum(['flash', 'jtag']) }),
  z.object({ reconfigure: z.literal(true) }),
]);

/** The hands on the board: buttons, switches, the boot switch, the reconfigure button. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const server = await runtime();
  const hands = server.pod.hands();
  if ('control' in wanted) await hands.operate(wanted.control, wanted.on);
  else if ('reconfigure' in wanted) await hands.reconfigure();
  else await hands.setBootSource(wanted.bootSource);
  if (!('control' in wanted)) server.boots();
  return answer({});
});
