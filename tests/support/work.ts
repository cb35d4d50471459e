import type { Server } from '../../server/assemble.ts';
import type { WorkState } from '../../server/index.ts';

/** Everything that pages show, as one. */
export const workOf = async (server: Server): Promise<WorkState> =>
  Object.assign({}, ...Object.values(await server.state.all()));

/** A finished job of this number. */
export async function endedJob(server: Server, id: number) {
  for (;;) {
    const job = server.jobs.list.find((one) => one.id === id);
    if (!job) throw new Error(`no job ${id}`);
    if (job.endedAt !== null) return job;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
