import { counted } from '../../core/words.ts';
import { BENCH_VIEWS, DESIGN_VIEWS, DRIVE_VIEWS, hasFailed, KEEP_VIEWS, REPLAY_VIEWS } from '../shared/index.ts';
import type { Job } from '../../server/index.ts';
import type { WorkState } from '../../server/index.ts';

export type Tone = 'none' | 'ready' | 'running' | 'stale' | 'failed';

interface Station {
  readonly path: string;
  readonly name: string;
  readonly verb: string;
}

/** In the order of the work. */
export const STATIONS: readonly Station[] = [
  { path: '/bench', name: 'Bench', verb: 'find the board and its chain' },
  { path: '/design', name: 'Design', verb: 'edit and build' },
  { path: '/load', name: 'Load', verb: 'run until power goes' },
  { path: '/keep', name: 'Keep', verb: 'write flash, survive power-off' },
  { path: '/probe', name: 'Probe', verb: 'choose signals' },
  { path: '/capture', name: 'Capture', verb: 'record around an event' },
  { path: '/drive', name: 'Drive', verb: 'move levers, read gauges' },
  { path: '/replay', name: 'Replay', verb: 'see what was not captured' },
  { path: '/logbook', name: 'Logbook', verb: 'what was done' },
];

/** Every view of every station by its way. */
export const VIEWS = [
  { station: 'Bench', path: '/bench', views: BENCH_VIEWS },
  { station: 'Design', path: '/design', views: DESIGN_VIEWS },
  { station: 'Keep', path: '/keep', views: KEEP_VIEWS },
  { station: 'Drive', path: '/drive', views: DRIVE_VIEWS },
  { station: 'Replay', path: '/replay', views: REPLAY_VIEWS },
].flatMap(({ station, path, views }) =>
  views.map(({ id, name, hint }) => ({ name: `${station} › ${name}`, path: `${path}/${id}`, hint })),
);

interface StationState {
  readonly tone: Tone;
  /** The word that says why. */
  readonly word: string;
}

const NONE: StationState = { tone: 'none', word: '' };

/** What a station's dot and word say. */
export function stationState(path: string, state: WorkState | null): StationState {
  if (!state) return NONE;
  switch (path) {
    case '/bench':
      return bench(state);
    case '/design':
      return design(state);
    case '/load':
      return load(state);
    case '/keep':
      return keep(state);
    case '/probe':
      return probe(state);
    case '/capture':
      return capture(state);
    case '/drive':
      return drive(state);
    case '/replay':
      return state.latestCapture === null
        ? { tone: 'none', word: 'none yet' }
        : { tone: 'ready', word: `of capture ${state.latestCapture}` };
    default:
      return { tone: 'none', word: '' };
  }
}

const jobState = (state: WorkState, ...kinds: Job['kind'][]): Job | undefined =>
  state.jobs.find((job) => job.isHere && kinds.includes(job.kind));
const active = (job: Job | undefined): boolean => job !== undefined && job.endedAt === null;

function bench({ pod, scan, jobs, chain }: WorkState): StationState {
  if (jobs.some((job) => job.isHere && job.kind === 'scan' && job.endedAt === null))
    return { tone: 'running', word: 'scanning' };
  if (pod.state === 'connecting') return { tone: 'running', word: 'connecting' };
  if (pod.state !== 'connected') return { tone: 'failed', word: pod.state === 'refused' ? 'token refused' : 'no pod' };
  if (!scan) return { tone: 'none', word: 'not scanned' };
  if (scan.problems.length === 0 && chain.rows?.some((row) => row.kind !== 'same'))
    return { tone: 'stale', word: 'not as expected' };
  return scan.problems.length > 0
    ? { tone: 'failed', word: scan.problems[0]?.code === 'no-power' ? 'no power' : 'chain trouble' }
    : { tone: 'ready', word: counted(scan.devices.length, 'device') };
}

function design(state: WorkState): StationState {
  if (active(jobState(state, 'build'))) return { tone: 'running', word: 'building' };
  const { latest, stale } = state;
  if (!latest) return { tone: 'none', word: 'not built' };
  if (stale.length > 0) return { tone: 'stale', word: 'stale' };
  return latest.good
    ? { tone: 'ready', word: 'built' }
    : { tone: 'failed', word: `${latest.errors} ${latest.errors === 1 ? 'error' : 'errors'}` };
}

function load(state: WorkState): StationState {
  const job = jobState(state, 'load');
  if (active(job)) return { tone: 'running', word: 'loading' };
  if (hasFailed(job) && !state.running?.fingerprint) return { tone: 'failed', word: 'failed' };
  const { running, usable, usedBy } = state;
  if (usedBy !== null) return { tone: 'none', word: 'in other hands' };
  if (!usable && !running) return { tone: 'none', word: 'no build' };
  if (!running) return { tone: 'none', word: 'not asked' };
  if (!running.fingerprint)
    return { tone: 'none', word: running.done === null ? 'not told' : running.done ? 'unknown design' : 'empty' };
  if (!usable) return { tone: 'stale', word: 'other build' };
  return running.fingerprint === usable.fingerprint
    ? { tone: 'ready', word: 'running' }
    : { tone: 'stale', word: 'other build' };
}

function keep(state: WorkState): StationState {
  const job = jobState(state, 'keep');
  if (active(job)) return { tone: 'running', word: 'writing' };
  const { kept, usable } = state;
  if (hasFailed(job)) return { tone: 'failed', word: job?.state === 'interrupted' ? 'interrupted' : 'failed' };
  if (!kept) return { tone: 'none', word: 'not kept' };
  if (kept.fingerprint === usable?.fingerprint) return { tone: 'ready', word: 'kept' };
  return kept.project === state.project?.id
    ? { tone: 'stale', word: 'older build' }
    : { tone: 'none', word: 'other design' };
}

function probe({ planned, stale }: WorkState): StationState {
  const total = planned.recorders + planned.levers + planned.gauges;
  if (total === 0) return { tone: 'none', word: 'nothing chosen' };
  return stale.some((edit) => edit.what === 'probe plan')
    ? { tone: 'stale', word: 'build needed' }
    : { tone: 'ready', word: `${total} ${total === 1 ? 'probe' : 'probes'}` };
}

function capture(state: WorkState): StationState {
  const job = jobState(state, 'capture');
  if (active(job))
    return { tone: 'running', word: state.armed.some(({ status }) => status === 'waiting') ? 'waiting' : 'recording' };
  if (hasFailed(job)) return { tone: 'failed', word: job?.state === 'interrupted' ? 'interrupted' : 'failed' };
  return state.latestCapture === null
    ? { tone: 'none', word: 'none yet' }
    : { tone: 'ready', word: `capture ${state.latestCapture}` };
}

function drive({ usable, running }: WorkState): StationState {
  if (!usable?.cores.some((core) => core.startsWith('panel'))) return { tone: 'none', word: 'no panel' };
  return running?.fingerprint === usable.fingerprint
    ? { tone: 'ready', word: 'live' }
    : { tone: 'stale', word: 'not loaded' };
}
