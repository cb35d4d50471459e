import { call, router } from './procedures.ts';

/** What was done, newest first. */
export const logbook = router({ list: call.query(({ ctx: { on } }) => on.store.logbook.list()) });
