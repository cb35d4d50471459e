import { server } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => answer(await (await server()).store.logbook.list()));
