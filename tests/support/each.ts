// Of a file of browser tests each finds the same.
import { afterAll, beforeAll, beforeEach } from 'vitest';
import { openWorkbench, type Workbench, type WorkbenchOptions } from './workbench.ts';

/**
 * A workbench for the tests of a file, of which none knows of another: each finds what `prepare` left, its server, pod
 * and browser new. What only lives in a board under power (a loaded design) is not there again: see `loaded`.
 */
export function workbench(
  prepare: (bench: Workbench) => Promise<void> = async () => {},
  options: WorkbenchOptions = {},
) {
  let now: Workbench;
  beforeAll(async () => {
    now = await openWorkbench(options);
    await prepare(now);
    await now.keep();
  });
  let isFresh = true;
  beforeEach(async () => {
    if (!isFresh) await now.again();
    isFresh = false;
  });
  afterAll(() => now?.stop());
  return new Proxy({} as Workbench, { get: (_, name) => now[name as keyof Workbench] });
}
