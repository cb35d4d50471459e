import { type ConfigStatus, readFingerprint, readStatus } from '../fabric/index.ts';
import type { Cable } from '../jtag/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { linkTo } from './scan.ts';

/** How the board is made to boot: without supply for a moment, or by the reconfigure wire, which leaves everything else running. */
export type RehearsalKind = 'power' | 'reconfigure';

/** What a boot proved. */
export interface Rehearsal {
  readonly by: RehearsalKind;
  readonly done: boolean;
  /** From the supply or the wire to DONE, as seen through the status register. */
  readonly bootMilliseconds: number;
  readonly fingerprint: string | null;
  readonly status: ConfigStatus;
}

const OFF_MICROSECONDS = 50_000;
const STEP_MICROSECONDS = 10_000;
const LONGEST_MICROSECONDS = 3_000_000;

/** Lets the board boot, waits for DONE and asks what came up. */
export async function rehearseBoot(cable: Cable, part: string, device: number | null, watch: Watch, by: RehearsalKind = 'power'): Promise<Result<Rehearsal>> {
  watch.report({ phase: by === 'power' ? 'Power-cycling' : 'Reconfiguring', done: 0, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  if (by === 'power') {
    await cable.setPower(false);
    await cable.run([{ kind: 'wait', microseconds: OFF_MICROSECONDS }]);
    await cable.setPower(true);
  } else await cable.reconfigure();
  const link = await linkTo(cable, part, device);
  if (!link.ok) return fail(link.error);
  for (let waited = 0; ; waited += STEP_MICROSECONDS) {
    const status = await readStatus(link.value);
    if (status.done || waited >= LONGEST_MICROSECONDS || status.bootSource === 'jtag') {
      const fingerprint = status.done ? await readFingerprint(link.value) : null;
      return ok({ by, done: status.done, bootMilliseconds: waited / 1000, fingerprint, status });
    }
    if (status.checked && (status.crcError || status.idcodeMismatch)) return fail(problem('boot-failed', 'The FPGA read the flash and refused what it found there.', 'Write the flash again.'));
    watch.report({ phase: 'Waiting for DONE', done: waited / 1000, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
    link.value.queue.wait(STEP_MICROSECONDS);
    await link.value.queue.flush();
  }
}
