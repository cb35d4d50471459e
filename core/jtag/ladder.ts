import { bigIntOf, constantBits } from '../bits/index.ts';
import { item } from '../lists.ts';
import { isLegal, measureIr, countBypass, readIdcodes } from './discover.ts';
import { describeIdcode } from './idcode.ts';
import type { KnownDevice } from './known.ts';
import type { ScanQueue } from './queue.ts';
import { splitIr } from './split.ts';

export type RungName =
  | 'pod'
  | 'cable'
  | 'reference'
  | 'tdo'
  | 'speed'
  | 'reset'
  | 'path'
  | 'count'
  | 'idcodes'
  | 'capture'
  | 'expected';

/**
 * One question of the ladder, answered by measuring. `measured` is what was seen; `tryNext` what to check on the desk,
 * in order.
 */
export interface Rung {
  readonly name: RungName;
  readonly question: string;
  readonly state: 'pass' | 'fail' | 'not-reached';
  readonly measured: string;
  readonly tryNext: readonly string[];
}

export const RUNG_QUESTIONS: Readonly<Record<RungName, string>> = {
  pod: 'The pod answers',
  cable: 'The cable is plugged in',
  reference: 'The board gives its reference voltage',
  tdo: 'TDO is not stuck',
  speed: 'TDO arrives in time at this TCK',
  reset: 'The TAPs obey reset',
  path: 'What goes into TDI comes out of TDO',
  count: 'The number of devices stays the same',
  idcodes: 'The IDCODEs can be ones',
  capture: 'The instruction registers show their 01',
  expected: 'The devices are the expected ones',
};

const REPEATS = 8;
const SLOWER = 10;

type Verdict = { readonly ok: boolean; readonly measured: string; readonly tryNext?: readonly string[] };

/** The rungs that are scans; those before them are the caller's. Ends behind the first that fails. */
export async function climbChain(queue: ScanQueue, known: readonly KnownDevice[]): Promise<Rung[]> {
  const rungs: Rung[] = [];
  const step = async (name: RungName, ask: () => Promise<Verdict>): Promise<boolean> => {
    if (rungs.some((rung) => rung.state !== 'pass')) return false;
    const { ok, measured, tryNext = [] } = await ask();
    rungs.push({
      name,
      question: RUNG_QUESTIONS[name],
      state: ok ? 'pass' : 'fail',
      measured,
      tryNext: ok ? [] : tryNext,
    });
    return ok;
  };
  let ids: readonly (number | null)[] = [];
  await step('tdo', async () => {
    queue.reset();
    const found = await readIdcodes(queue);
    if (found.kind === 'stuck') return { ok: false, measured: found.problem.message, tryNext: found.problem.tryNext };
    ids = found.found;
    return {
      ok: true,
      measured: `Both levels are seen; ${ids.length} ${ids.length === 1 ? 'device answers' : 'devices answer'}.`,
    };
  });
  await step('speed', () => compareSpeeds(queue, ids));
  await step('reset', () => compareReset(queue, ids));
  await step('path', () => tryPath(queue, ids.length));
  await step('count', () => repeatCount(queue, ids));
  await step('idcodes', async () => {
    const bad = ids.flatMap((id, index) => (id !== null && !isLegal(id) ? [index] : []));
    return {
      ok: bad.length === 0,
      measured: ids.map((id) => (id === null ? 'none' : describeIdcode(id))).join(', '),
      tryNext: [
        `Place ${bad.join(', ')}: this manufacturer code belongs to nobody, so bits are disturbed. Lower the TCK ` +
          'frequency.',
        'Check ground between cable and board.',
      ],
    };
  });
  await step('capture', () => tryCapture(queue, ids, known));
  return rungs;
}

async function compareSpeeds(queue: ScanQueue, ids: readonly (number | null)[]): Promise<Verdict> {
  const { tckHz, leastHz } = await queue.cable.state();
  const slow = await queue.cable.setFrequency(Math.max(leastHz, tckHz / SLOWER));
  queue.reset();
  const again = await readIdcodes(queue);
  const back = await queue.cable.setFrequency(tckHz);
  const same =
    again.kind === 'found' && again.found.length === ids.length && again.found.every((id, i) => id === ids[i]);
  const [fast, slower] = [megahertz(back), megahertz(slow)];
  if (same) return { ok: true, measured: `The same at ${fast} and at ${slower}.` };
  return {
    ok: false,
    measured: `At ${fast} and at ${slower} the chain reads differently: bits arrive too late.`,
    tryNext: [
      `Set TCK to ${slower} and go on; the sweep finds the highest that works.`,
      'Use a shorter cable.',
      'Look at TDO with a probe: series resistors and long stubs slow its edges.',
    ],
  };
}

/** Put into BYPASS, then reset: the IDCODEs must be back. A chain without any cannot show it. */
async function compareReset(queue: ScanQueue, ids: readonly (number | null)[]): Promise<Verdict> {
  if (ids.every((id) => id === null))
    return { ok: true, measured: 'No device has an IDCODE, so reset cannot be told from BYPASS.' };
  queue.reset();
  queue.ir(constantBits(3200, 1));
  await queue.flush();
  const bypassed = await readPath(queue, ids.length);
  queue.reset();
  const again = await readIdcodes(queue);
  const back =
    again.kind === 'found' && again.found.length === ids.length && again.found.every((id, i) => id === ids[i]);
  if (back && bypassed) return { ok: true, measured: 'BYPASS and, after five TCK with TMS high, IDCODE again.' };
  if (!bypassed) return { ok: true, measured: 'IDCODEs after reset; BYPASS is looked at next.' };
  return {
    ok: false,
    measured: 'After five TCK with TMS high the devices do not show their IDCODEs again.',
    tryNext: [
      'Check TMS from the connector to every device.',
      'Check for a TRST that is held or floating.',
      'Check TCK for ringing: double edges lose the reset.',
    ],
  };
}

async function readPath(queue: ScanQueue, devices: number): Promise<boolean> {
  return bigIntOf(await queue.exchangeDr(constantBits(devices, 1))) === 0n;
}

async function tryPath(queue: ScanQueue, devices: number): Promise<Verdict> {
  queue.reset();
  const path = await measureIr(queue);
  if (path === null)
    return {
      ok: false,
      measured: `The ${devices} nearest TDO answer, but nothing sent into TDI comes out.`,
      tryNext: [
        `Check that the device next to place ${devices - 1}, towards TDI, is fitted and powered.`,
        'Check that it is not held in reset: measure its TRST pin.',
        'Check TDI from the connector on for a break.',
      ],
    };
  const counted = await countBypass(queue, devices);
  return {
    ok: counted === devices,
    measured:
      counted < 0
        ? 'A mark sent through BYPASS never comes out.'
        : `${path.length} instruction bits; BYPASS counts ${counted} of ${devices}.`,
    tryNext: ['Check TMS at every device: one of them does not follow.', 'Lower the TCK frequency.'],
  };
}

async function repeatCount(queue: ScanQueue, ids: readonly (number | null)[]): Promise<Verdict> {
  const counts: number[] = [];
  let changed = 0;
  for (let i = 0; i < REPEATS; i++) {
    queue.reset();
    const found = await readIdcodes(queue);
    const now = found.kind === 'found' ? found.found : [];
    counts.push(now.length);
    if (now.length !== ids.length || now.some((id, k) => id !== ids[k])) changed++;
  }
  return {
    ok: changed === 0,
    measured:
      changed === 0
        ? `${ids.length} in each of ${REPEATS} readings.`
        : `Readings: ${counts.join(', ')}; ${changed} of ${REPEATS} differ.`,
    tryNext: [
      'Lower the TCK frequency.',
      'Check the plug and the ground wire of the cable.',
      'Check the supply of the devices for dips.',
    ],
  };
}

async function tryCapture(
  queue: ScanQueue,
  ids: readonly (number | null)[],
  known: readonly KnownDevice[],
): Promise<Verdict> {
  queue.reset();
  const path = await measureIr(queue);
  if (path === null)
    return { ok: false, measured: 'The instruction path does not end.', tryNext: ['Lower the TCK frequency.'] };
  const hints = ids
    .map((id) => known.find((device) => id !== null && ((device.idcode ^ id) & 0x0fffffff) === 0))
    .map((device) => ({ length: device?.irLength ?? null, capture: null }));
  const split = splitIr(path, hints);
  const bits = [...Array(path.length).keys()]
    .reverse()
    .map((i) => (item(path.bytes, i >>> 3) >>> (i & 7)) & 1)
    .join('');
  return {
    ok: split.kind !== 'impossible',
    measured: `Captured ${bits.length > 48 ? `${bits.slice(0, 22)}…${bits.slice(-22)}` : bits}.`,
    tryNext: [
      'A device may be another one than its IDCODE says: compare the marking on its case.',
      'Lower the TCK frequency.',
      'Check TMS: a device that skips Capture-IR shows like this.',
    ],
  };
}

const megahertz = (hz: number): string => `${Number((hz / 1e6).toPrecision(3))} MHz`;
