import { constantBits } from '../bits/index.ts';
import { type ConfigStatus, decodeStatus, INSTRUCTION, readFingerprint, STATUS_LENGTH } from '../fabric/index.ts';
import type { Cable, ChainLink } from '../jtag/index.ts';
import { last } from '../lists.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { LEAST_VOLTS, linkTo } from './scan.ts';

/**
 * How the board is made to boot: without supply for a moment, or by the reconfigure wire, which leaves everything else
 * running.
 */
export type RehearsalKind = 'power' | 'reconfigure';

/** What a boot proved. */
export interface Rehearsal {
  readonly by: RehearsalKind;
  readonly done: boolean;
  /**
   * From the supply or the wire to DONE as the status register shows it, counted in TCK cycles and pauses; about 2 ms
   * coarse.
   */
  readonly bootMilliseconds: number;
  readonly fingerprint: string | null;
  readonly status: ConfigStatus;
}

const OFF_MICROSECONDS = 50_000;
const SETTLE_MICROSECONDS = 10_000;
const STEP_MICROSECONDS = 2000;
/** Looks that go to the pod together, so that the way there and back does not stretch the time. */
const LOOKS = 100;
const LONGEST_MICROSECONDS = 3_000_000;

/**
 * Lets the board boot, waits for DONE and asks what came up. The chain is looked at before, so that nothing delays the
 * first look.
 */
export async function rehearseBoot(
  cable: Cable,
  part: string,
  device: number | null,
  watch: Watch,
  by: RehearsalKind = 'power',
): Promise<Result<Rehearsal>> {
  const before = await cable.state();
  if (before.attached && before.referenceVolts < LEAST_VOLTS) {
    await cable.setPower(true);
    await cable.run([{ kind: 'wait', microseconds: SETTLE_MICROSECONDS }]);
  }
  const found = await linkTo(cable, part, device);
  if (!found.ok) return fail(found.error);
  const link = found.value;
  watch.report({
    phase: by === 'power' ? 'Power-cycling' : 'Reconfiguring',
    done: 0,
    total: LONGEST_MICROSECONDS / 1000,
    unit: 'ms',
  });
  if (by === 'power') {
    await cable.setPower(false);
    await cable.run([{ kind: 'wait', microseconds: OFF_MICROSECONDS }]);
    await cable.setPower(true);
  } else await cable.reconfigure();
  const { tckHz } = await cable.state();
  const start = link.queue.counts.tckCycles;
  link.queue.reset();
  let waited = 0;
  for (;;) {
    const looks = await lookOften(link);
    for (const { status, cycles } of looks) {
      waited += STEP_MICROSECONDS;
      if (!status.done) continue;
      const microseconds = waited + ((cycles - start) * 1e6) / tckHz;
      return ok({
        by,
        done: true,
        bootMilliseconds: Math.round(microseconds / 1000),
        fingerprint: await readFingerprint(link),
        status,
      });
    }
    const { status } = last(looks);
    if (status.checked && !status.fellBack && (status.crcError || status.idcodeMismatch))
      return fail(
        problem('boot-failed', 'The FPGA read the flash and refused what it found there.', 'Write the flash again.'),
      );
    if (waited >= LONGEST_MICROSECONDS || status.bootSource === 'jtag')
      return ok({ by, done: false, bootMilliseconds: Math.round(waited / 1000), fingerprint: null, status });
    watch.report({ phase: 'Waiting for DONE', done: waited / 1000, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  }
}

interface Look {
  readonly status: ConfigStatus;
  readonly cycles: number;
}

/** The status register several times, with pauses between, in one batch. */
async function lookOften(link: ChainLink): Promise<Look[]> {
  const looks: Promise<Look>[] = [];
  link.select(INSTRUCTION.CFG_STATUS);
  for (let i = 0; i < LOOKS; i++) {
    link.queue.wait(STEP_MICROSECONDS);
    const answer = link.exchange(constantBits(STATUS_LENGTH, 0));
    const cycles = link.queue.counts.tckCycles;
    looks.push(answer.then((bits) => ({ status: decodeStatus(bits), cycles })));
  }
  await link.queue.flush();
  return Promise.all(looks);
}
