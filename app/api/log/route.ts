import { runtime } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => answer(await (await runtime()).logbook.list()));
