// What the page takes that sees a thousand captures come.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { did, openWorkbench, planned, PROBED, station } from '../../tests/support/workbench.ts';

const CAPTURES = 1000;
/** "Keep every one" ends by itself after so many. */
const IN_ONE_GO = 200;

/** Megabytes of the tab's heap, collected, before and after a thousand captures; null where it is not built. */
export async function heapOverCaptures(): Promise<{ readonly before: number; readonly after: number } | null> {
  if (!existsSync(join('.next', 'BUILD_ID'))) return null;
  const bench = await openWorkbench();
  try {
    const { page, api } = bench;
    await planned(bench, PROBED);
    for (const kind of ['scan', 'build', 'load'] as const) await did(bench, { kind });
    await station(page, 'Capture');
    const session = await page.context().newCDPSession(page);
    const heap = async () => {
      await session.send('HeapProfiler.collectGarbage');
      const { usedSize } = (await session.send('Runtime.getHeapUsage')) as { usedSize: number };
      return usedSize / 2 ** 20;
    };
    const before = await heap();
    const count = async () => (await api.capture.list.query())?.kept.count ?? 0;
    for (let wanted = IN_ONE_GO; wanted <= CAPTURES; wanted += IN_ONE_GO) {
      const when = 'state == 0 or state != 0';
      const { id } = await api.capture.arm.mutate({ recorder: 'main', when, before: 8, repeat: 'every' });
      while ((await count()) < wanted) await new Promise((resolve) => setTimeout(resolve, 500));
      await api.jobs.cancel.mutate({ id }).catch(() => {});
      await new Promise((resolve) => setTimeout(resolve, 1000));
    }
    await page.getByRole('button', { name: /^All 1,\d{3} captures/ }).waitFor();
    return { before, after: await heap() };
  } finally {
    await bench.stop();
  }
}
