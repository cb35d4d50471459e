import { devicesOf } from '../families/index.ts';
import { type CableState, discoverChain, type FoundDevice, ScanQueue } from '../jtag/index.ts';
import type { Problem } from '../result.ts';
import { problem } from './problems.ts';
import type { Board } from './board.ts';

export interface Scan {
  readonly devices: readonly FoundDevice[];
  readonly irTotal: number;
  readonly tckCycles: number;
  readonly problems: readonly Problem[];
}

/** Looks at the board's supply, then at the chain. */
export async function scanChain({ cable, memory, families }: Omit<Board, 'hands'>): Promise<Scan> {
  const { attached, referenceVolts: volts, trouble } = await cable.state();
  if (trouble || !attached) return { devices: [], irTotal: 0, tckCycles: 0, problems: [trouble ?? noCable()] };
  if (volts !== null && volts < LEAST_VOLTS)
    return {
      devices: [],
      irTotal: 0,
      tckCycles: 0,
      problems: [volts < OFF_VOLTS ? noPower(volts) : lowReference(volts)],
    };
  const queue = new ScanQueue(cable);
  const found = await discoverChain(queue, [...devicesOf(families), ...memory.described], memory.answers);
  return { ...found, tckCycles: queue.counts.tckCycles };
}

/** Below, the supply is off; between the two it is on and too low for the pod's level shifters. */
const OFF_VOLTS = 0.5;
export const LEAST_VOLTS = 1.6;

/** Whether a board has the supply to be spoken to; null where the pod has no wire that could tell. */
export const isPowered = ({ attached, referenceVolts: volts }: CableState): boolean | null =>
  attached && volts === null ? null : attached && volts !== null && volts >= LEAST_VOLTS;

const noCable = (): Problem => problem('no-cable');

const noPower = (volts: number): Problem => problem('no-power', { volts: volts.toFixed(1) });

const lowReference = (volts: number): Problem =>
  problem('low-reference', { volts: volts.toFixed(1), leastVolts: LEAST_VOLTS });
