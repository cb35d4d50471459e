import type { ChainSession } from '../board/index.ts';
import { type BypassTest, ScanQueue, testBypass } from '../jtag/index.ts';
import { item } from '../lists.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** Bit errors against TCK. Frequencies in hertz. */
export interface Sweep {
  readonly points: readonly (BypassTest & { readonly hz: number })[];
  /** Highest frequency below which no point had an error; null when even the lowest had. */
  readonly reliableHz: number | null;
  /** That, less the margin. */
  readonly chosenHz: number | null;
  /** Share of the reliable frequency that is left unused. */
  readonly margin: number;
}

const STEPS_MHZ = [0.25, 0.5, 1, 2, 3, 4, 5, 6, 7, 8, 10, 12.5, 15, 17.5, 20, 22.5, 25, 27.5, 30, 35, 40, 50];
/** A cable that is slower than all of these is tried at parts of what it can. */
const SLOW_PARTS = [0.125, 0.25, 0.5, 0.75, 1];
const BITS = 20_000;
const COUNTING_HZ = 250_000;
/** Temperature, supply and the next cable move the limit; common practice. */
const MARGIN = 0.3;

const stepsTo = (mostHz: number): readonly number[] => {
  const steps = STEPS_MHZ.map((mhz) => mhz * 1e6).filter((hz) => hz <= mostHz);
  return steps.length >= SLOW_PARTS.length ? steps : SLOW_PARTS.map((part) => part * mostHz);
};

/** How many bits come back wrong through BYPASS, at the frequency the cable has now. */
export async function checkIntegrity(
  chain: ChainSession,
  bits: number,
): Promise<Result<BypassTest & { readonly hz: number }>> {
  // Counted slowly: bits that are all one late look like one device more.
  const { tckHz: wanted } = await chain.cable.state();
  await chain.cable.setFrequency(Math.min(wanted, COUNTING_HZ));
  const scan = await chain.rescan();
  const tckHz = await chain.cable.setFrequency(wanted);
  const [trouble] = scan.problems;
  if (scan.devices.length === 0 || scan.irTotal === 0) return fail(trouble ?? problem('no-devices'));
  return ok({ ...(await testBypass(new ScanQueue(chain.cable), scan.devices.length, scan.irTotal, bits)), hz: tckHz });
}

/**
 * Tests the chain from slow to fast and sets the highest reliable frequency, with a margin; the pod keeps it for its
 * next start.
 */
export async function sweepTck(chain: ChainSession, watch: Watch): Promise<Result<Sweep>> {
  const before = await chain.cable.state();
  const wanted = stepsTo(before.mostHz);
  await chain.cable.setFrequency(Math.max(before.leastHz, item(wanted, 0)));
  const scan = await chain.rescan();
  const [trouble] = scan.problems;
  if (scan.devices.length === 0 || scan.irTotal === 0) {
    await chain.cable.setFrequency(before.tckHz);
    return fail(trouble ?? problem('no-devices (sweepTck)'));
  }
  const points: (BypassTest & { hz: number })[] = [];
  try {
    for (const [i, hz] of wanted.entries()) {
      watch.report({
        phase: hz < 1e6 ? `TCK ${hz / 1e3} kHz` : `TCK ${hz / 1e6} MHz`,
        done: i,
        total: wanted.length,
        unit: 'frequency',
      });
      stopIfCancelled(watch, 'The frequency is as it was before.');
      const real = await chain.cable.setFrequency(hz);
      if (points.at(-1)?.hz === real) continue;
      points.push({
        ...(await testBypass(new ScanQueue(chain.cable), scan.devices.length, scan.irTotal, BITS)),
        hz: real,
      });
    }
  } catch (error) {
    await chain.cable.setFrequency(before.tckHz);
    throw error;
  }
  const wrong = points.findIndex((point) => point.errors > 0);
  const reliable = wrong < 0 ? points.at(-1) : points[wrong - 1];
  const chosen = await chain.cable.setFrequency(
    reliable ? reliable.hz * (1 - MARGIN) : before.tckHz,
    reliable !== undefined,
  );
  return ok({ points, reliableHz: reliable?.hz ?? null, chosenHz: reliable ? chosen : null, margin: MARGIN });
}
