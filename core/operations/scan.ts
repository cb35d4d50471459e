import { KNOWN_DEVICES } from '../fabric/index.ts';
import { type Cable, ChainLink, type ChainMemory, discoverChain, type FoundDevice, ScanQueue } from '../jtag/index.ts';
import { fail, ok, type Problem, problem, type Result } from '../result.ts';

export interface Scan {
  readonly devices: readonly FoundDevice[];
  readonly irTotal: number;
  readonly tckCycles: number;
  readonly problems: readonly Problem[];
}

export const NOTHING_SAID: ChainMemory = { answers: [], described: [] };

/** Looks at the board's supply, then at the chain. */
export async function scanChain(
  cable: Cable,
  { answers, described } = cable.chainMemory ?? NOTHING_SAID,
): Promise<Scan> {
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
  const found = await discoverChain(queue, [...KNOWN_DEVICES, ...described], answers);
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

/**
 * A link to one device of a chain scanned just now. `wanted` is a place in the chain or null for the only device of
 * that part.
 */
export async function linkTo(cable: Cable, part: string, wanted: number | null): Promise<Result<ChainLink>> {
  const scan = await scanChain(cable);
  const [trouble] = scan.problems;
  if (trouble) return fail(trouble);
  const matches = scan.devices.filter((device) => device.candidates.includes(part));
  const device = wanted === null ? matches[0] : scan.devices[wanted];
  const seen = scan.devices.map((d) => `${d.index} ${d.part ?? 'unknown'}`).join(', ');
  if (!device) {
    return wanted === null
      ? fail(
          problem(
            'part-not-in-chain',
            `There is no ${part} in the chain. It holds: ${seen}. Nothing was shifted.`,
            'Build for a part that is on the board.',
            'Check that the right board is connected.',
          ),
        )
      : fail(
          problem(
            'no-device',
            `There is no device ${wanted} in the chain. It holds: ${seen}.`,
            'Count from 0, the device nearest TDO.',
          ),
        );
  }
  if (!device.candidates.includes(part))
    return fail(
      problem(
        'wrong-part',
        `This is for a ${part}, but device ${device.index} is ${device.part ?? 'unknown'}. Nothing was shifted.`,
        `Choose one of: ${matches.map((m) => m.index).join(', ') || 'no device of this chain fits'}.`,
      ),
    );
  if (wanted === null && matches.length > 1)
    return fail(
      problem(
        'several-devices',
        `The chain holds ${matches.length} devices that may be a ${part}: ${matches.map((m) => m.index).join(', ')}.`,
        'Name the one with --device.',
      ),
    );
  const lengths = scan.devices.map((d) => d.irLength);
  if (lengths.some((length) => length === null))
    return fail(
      problem('ir-unknown', 'The chain holds a device whose instruction length is not known.', 'Read its BSDL file.'),
    );
  const queue = new ScanQueue(cable);
  queue.reset();
  return ok(new ChainLink(queue, lengths as number[], device.index));
}
