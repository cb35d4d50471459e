import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.union([z.object({ control: z.string(), on: z.boolean() }), z.object({ bootSource: z.enum(['flash', 'jtag']) })]);

/** The hands on the board: buttons, switches, the boot switch. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const hands = (await runtime()).pod.hands();
  if ('control' in wanted) await hands.operate(wanted.control, wanted.on);
  else await hands.setBootSource(wanted.bootSource);
  return answer({});
});
