import type { PodCapabilities } from '../../core/pod/index.ts';
import type { Job } from '../../server/index.ts';

interface Verb {
  readonly name: string;
  /** Where what comes of it is shown. */
  readonly path: string;
  /** What is asked of the server; null where the page asks first. */
  readonly body: { readonly kind: string; readonly [more: string]: unknown } | null;
}

const ALWAYS: readonly Verb[] = [
  { name: 'Scan the chain', path: '/bench', body: { kind: 'scan' } },
  { name: 'Diagnose the chain', path: '/bench/diagnosis', body: { kind: 'diagnose' } },
  { name: 'Find the fastest TCK', path: '/bench/speed', body: { kind: 'sweep' } },
  { name: 'Test the chain in BYPASS', path: '/bench/speed', body: { kind: 'integrity' } },
  { name: 'Test the wiring between devices', path: '/bench/wiring', body: { kind: 'interconnect' } },
  { name: 'Build the design', path: '/design', body: { kind: 'build' } },
  { name: 'Load as planned', path: '/load', body: { kind: 'load' } },
  { name: 'Look at the flash', path: '/keep', body: { kind: 'flash' } },
  { name: 'Write the flash', path: '/keep', body: null },
  { name: 'Power-cycle the board', path: '/keep', body: { kind: 'rehearse', by: 'power' } },
];

/** What can be asked for now, by what the pod can do and whether the board has its supply. */
export function verbsFor(can: PodCapabilities | null, powered: boolean | null): readonly Verb[] {
  return [
    ...ALWAYS,
    ...(can?.reconfigure
      ? [{ name: 'Reconfigure from flash', path: '/keep', body: { kind: 'rehearse', by: 'reconfigure' } }]
      : []),
    ...(can?.power && powered !== null
      ? [{ name: powered ? 'Power off' : 'Power on', path: '/bench', body: { kind: 'power', on: !powered } }]
      : []),
  ];
}

/** Jobs that can be cancelled: those that wait or run. */
export const cancellable = (jobs: readonly Job[]): readonly Job[] => jobs.filter(({ endedAt }) => endedAt === null);
