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
  { name: 'Build the design', path: '/design', order: { kind: 'build' } },
  { name: 'Load as planned', path: '/load', order: { kind: 'load' } },
  { name: 'Look at the flash', path: '/keep', order: { kind: 'flash' } },
  { name: 'Write the flash', path: '/keep', order: null },
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
