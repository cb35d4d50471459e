import { server } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** What was put into which FPGA, newest first. */
export const GET = guarded(async () => answer(await (await server()).store.files.loads()));
