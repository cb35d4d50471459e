import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { all, openWorkbench, planned, PROBED, station } from '../../tests/support/workbench.ts';

const SECONDS = 20;
/** Clock ticks a second in /proc (proc(5): _SC_CLK_TCK, 100 on Linux; common practice). */
const TICKS = 100;

/** Processor time a process has used, in seconds. */
function used(pid: number): number {
  // The name in brackets may hold blanks; times follow behind it (proc(5), /proc/pid/stat, fields 14 and 15).
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return (Number(fields[11]) + Number(fields[12])) / TICKS;
}

const pause = (seconds: number) => new Promise((resolve) => setTimeout(resolve, seconds * 1000));

/** Shares of one core that a pod and the web process take while a page is open and nothing happens. */
export async function atRest(): Promise<{ readonly pod: number; readonly web: number }> {
  const { page, pids, stop } = await openWorkbench();
  try {
    await page.getByTestId('board-face').waitFor();
    // What starting left behind is over then.
    await pause(20);
    const { pod, web } = pids();
    const before = [used(pod), used(web)] as const;
    await pause(SECONDS);
    return { pod: (used(pod) - before[0]) / SECONDS, web: (used(web) - before[1]) / SECONDS };
  } finally {
    await stop();
  }
}

/** A condition that never comes true, so that the recorder waits for it. */
const NEVER = 'state == 7 && state == 3';

/**
 * The demo's board with an armed recorder, a page that shows both: the pace as
 * the page tells it, and how often its time would pass in the processor time that the pod takes, the web process and a
 * browser beside it.
 */
export async function armedWithPage(): Promise<{ readonly pace: string; readonly times: number }> {
  const bench = await openWorkbench();
  const { page, pids, api } = bench;
  try {
    await planned(bench, PROBED);
    await all(bench, 'scan', 'build', 'load');
    await api.capture.arm.mutate({ recorder: 'main', when: NEVER, before: 0 });
    await station(page, 'Capture');
    await page.getByTestId('waiting').waitFor();
    await pause(5);
    const { pod } = pids();
    const [before, from] = [used(pod), performance.now()];
    await pause(SECONDS);
    const share = ((used(pod) - before) * 1000) / (performance.now() - from);
    const pace = (await page.getByTestId('board-speed').textContent()) ?? '';
    return { pace, times: 1 / share };
  } finally {
    await bench.stop();
  }
}

/** Wall time in seconds for the command to start and tell its commands, the best of some. */
export function commandStart(): number {
  const times = Array.from({ length: 7 }, () => {
    const start = performance.now();
    spawnSync(process.execPath, ['cli/nimble.mjs', '--help']);
    return (performance.now() - start) / 1000;
  });
  return Math.min(...times);
}
