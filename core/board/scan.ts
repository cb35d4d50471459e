import { devicesOf } from '../families/index.ts';
import { discoverChain, type FoundDevice, ScanQueue } from '../jtag/index.ts';
import { type Problem, problem } from '../result.ts';
import type { Board } from './board.ts';

export interface Scan {
  readonly devices: readonly FoundDevice[];
  readonly irTotal: number;
  readonly tckCycles: number;
  readonly problems: readonly Problem[];
}

/** Looks at the board's supply, then at the chain. */
export async function scanChain({ cable, memory, families }: Omit<Board, 'hands'>): Promise<Scan> {
  const { attached, referenceVolts: volts } = await cable.state();
  if (!attached) return { devices: [], irTotal: 0, tckCycles: 0, problems: [noCable()] };
  if (volts < LEAST_VOLTS)
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

const noCable = (): Problem =>
  problem(
    'no-cable',
    'No cable is plugged into the board’s JTAG connector.',
    'Plug the cable into the board.',
    'Check that its plug is fully in and the right way round.',
  );

const noPower = (volts: number): Problem =>
  problem(
    'no-power',
    `The board is not powered: the reference voltage is ${volts.toFixed(1)} V.`,
    'Switch the board on.',
    'Check the supply lead and the fuse.',
    'Check that the cable’s reference pin reaches the board.',
  );

const lowReference = (volts: number): Problem =>
  problem(
    'low-reference',
    `The reference voltage is ${volts.toFixed(1)} V, too low for the cable: it needs ${LEAST_VOLTS} V.`,
    'Measure the supply of the JTAG bank on the board.',
    'Check the resistor or fuse in the reference wire.',
    'Check that no other supply is shorted to it.',
  );
