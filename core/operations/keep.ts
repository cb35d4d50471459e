import { type Bitstream, type ConfigStatus, readFingerprint, readStatus } from '../fabric/index.ts';
import type { Cable } from '../jtag/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { reachFlash, writeToFlash } from './flash.ts';
import { linkTo } from './scan.ts';

export interface Keep {
  readonly chip: string;
  readonly device: number;
  readonly sectorsErased: number;
  readonly pagesWritten: number;
  readonly sectorsKept: number;
  readonly verified: boolean;
  readonly tckCycles: number;
  readonly payloadBits: number;
  readonly bootSource: ConfigStatus['bootSource'];
}

/** Writes a design to the configuration flash behind its FPGA, which copies it from there at every power-on. */
export async function keepBitstream(cable: Cable, bitstream: Bitstream, device: number | null, watch: Watch): Promise<Result<Keep>> {
  watch.report({ phase: 'Identifying', done: 0, total: 1, unit: 'chip' });
  const reached = await reachFlash(cable, device, bitstream.part);
  if (!reached.ok) return reached;
  const { part, device: place, bootSource, counts } = reached.value;
  const written = await writeToFlash(reached.value, 0, bitstream.stream, watch);
  return written.ok ? ok({ chip: `${part.maker} ${part.name}`, device: place, ...written.value, ...counts(), bootSource }) : written;
}

/** What a power-cycle proved. */
export interface Rehearsal {
  readonly done: boolean;
  readonly bootMilliseconds: number;
  readonly fingerprint: string | null;
  readonly status: ConfigStatus;
}

const OFF_MICROSECONDS = 50_000;
const STEP_MICROSECONDS = 10_000;
const LONGEST_MICROSECONDS = 3_000_000;

/** Takes power away, gives it back and waits for DONE. */
export async function rehearseBoot(cable: Cable, part: string, device: number | null, watch: Watch): Promise<Result<Rehearsal>> {
  watch.report({ phase: 'Power-cycling', done: 0, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  await cable.setPower(false);
  await cable.run([{ kind: 'wait', microseconds: OFF_MICROSECONDS }]);
  await cable.setPower(true);
  const link = await linkTo(cable, part, device);
  if (!link.ok) return fail(link.error);
  for (let waited = 0; ; waited += STEP_MICROSECONDS) {
    const status = await readStatus(link.value);
    if (status.done || waited >= LONGEST_MICROSECONDS || status.bootSource === 'jtag') {
      const fingerprint = status.done ? await readFingerprint(link.value) : null;
      return ok({ done: status.done, bootMilliseconds: waited / 1000, fingerprint, status });
    }
    if (status.checked && (status.crcError || status.idcodeMismatch)) return fail(problem('boot-failed', 'The FPGA read the flash and refused what it found there.', 'Write the flash again.'));
    watch.report({ phase: 'Waiting for DONE', done: waited / 1000, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
    link.value.queue.wait(STEP_MICROSECONDS);
    await link.value.queue.flush();
  }
}
