import type { PodCapabilities } from '../../core/pod/index.ts';
import type { Job, JobOrder } from '../../server/index.ts';

interface Verb {
  readonly name: string;
  /** Where what comes of it is shown. */
  readonly path: string;
  /** What is asked of the server; null where the page asks first. */
  readonly order: JobOrder | null;
}

const ALWAYS: readonly Verb[] = [
  { name: 'Scan the chain', path: '/bench', order: { kind: 'scan' } },
  { name: 'Diagnose the chain', path: '/bench/diagnosis', order: { kind: 'diagnose' } },
  { name: 'Find the fastest TCK', path: '/bench/speed', order: { kind: 'sweep' } },
  { name: 'Test the chain in BYPASS', path: '/bench/speed', order: { kind: 'integrity' } },
  { name: 'Test the wiring between devices', path: '/bench/wiring', order: { kind: 'interconnect' } },
  { name: 'Look at the pins', path: '/bench/pins', order: null },
  { name: 'Play an SVF file', path: '/bench/svf', order: null },
  { name: 'Connect to another pod', path: '/bench/pods', order: null },
  { name: 'Build the design', path: '/design', order: { kind: 'build' } },
  { name: 'Run a testbench', path: '/design/simulate', order: null },
  { name: 'Run a vector table', path: '/design/simulate?with=table', order: null },
  { name: 'Draw the design', path: '/design/schematic', order: null },
  { name: 'Compare two builds', path: '/design/builds', order: null },
  { name: 'Make a project', path: '/design/project', order: null },
  { name: 'Import or export a project', path: '/design/project', order: null },
  { name: 'Load as planned', path: '/load', order: { kind: 'load' } },
  { name: 'Look at the flash', path: '/keep', order: { kind: 'flash' } },
  { name: 'Write the flash', path: '/keep', order: null },
  { name: 'Verify the flash', path: '/keep', order: { kind: 'flash-step', step: { what: 'verify' } } },
  { name: 'Compare the flash with a file', path: '/keep/compare', order: null },
  { name: 'Read, fill, erase or check a stretch of flash', path: '/keep/steps', order: null },
  { name: 'Put a board’s data into the layout', path: '/keep/data', order: null },
  { name: 'Build with probes', path: '/probe', order: { kind: 'build' } },
  { name: 'Arm a recorder', path: '/capture', order: null },
  { name: 'Open a VCD file', path: '/capture', order: null },
  { name: 'Move a lever, read a gauge', path: '/drive', order: null },
  { name: 'Power-cycle the board', path: '/keep', order: { kind: 'rehearse', by: 'power' } },
];

/** What can be asked for now, by what the pod can do and whether the board has its supply. */
export function verbsFor(can: PodCapabilities | null, powered: boolean | null): readonly Verb[] {
  return [
    ...ALWAYS,
    ...(can?.reconfigure
      ? [
          {
            name: 'Reconfigure from flash',
            path: '/keep',
            order: { kind: 'rehearse', by: 'reconfigure' },
          } satisfies Verb,
        ]
      : []),
    ...(can?.power && powered !== null
      ? [
          {
            name: powered ? 'Power off' : 'Power on',
            path: '/bench',
            order: { kind: 'power', on: !powered },
          } satisfies Verb,
        ]
      : []),
  ];
}

/** Jobs that can be cancelled: those that wait or run. */
export const cancellable = (jobs: readonly Job[]): readonly Job[] => jobs.filter(({ endedAt }) => endedAt === null);
