import { assemble, type Server } from './assemble.ts';
import { openDatabase, seedDemo } from './store/index.ts';

const HOLDER = Symbol.for('nimble.server');
type Held = { [HOLDER]?: Promise<Server> };

/** The routes are bundled apart, so the one server hangs on the process itself. */
export function server(): Promise<Server> {
  const held = globalThis as Held;
  held[HOLDER] ??= start();
  return held[HOLDER];
}

async function start(): Promise<Server> {
  const made = assemble(await openDatabase());
  await made.store.logbook.markInterrupted();
  await made.svf.tidy();
  await seedDemo(made.store.projects);
  // It takes some seconds of a core, which a server that is started time and again has better use for.
  made.designs.warm(process.env.NIMBLE_WARM_UP !== 'off');
  const given = process.env.NIMBLE_POD_ADDRESS;
  const pod =
    given === undefined
      ? await made.store.pods.newest()
      : { address: given, token: process.env.NIMBLE_POD_TOKEN ?? '' };
  if (pod) void made.board.use(pod.address, pod.token);
  return made;
}
