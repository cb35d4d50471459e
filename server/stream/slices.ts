import type { Board } from '../board/index.ts';
import { DEFAULT_PLAN, summaryOfComparison } from '../board/index.ts';
import type { ArmedRecorders, SvfDesk } from '../desks/index.ts';
import { isDesignJob, type Job, type Jobs } from '../jobs/index.ts';
import type { LineBook } from '../line/index.ts';
import type { OpenProject } from '../project/index.ts';
import { ALONE, type FactStore, type Store } from '../store/index.ts';
import type { WorkState } from './state.ts';

/** What pages show, in pieces that change for reasons of their own. */
export interface Slices {
  readonly pod: Pick<WorkState, 'pod' | 'usedBy'>;
  readonly chain: Pick<WorkState, 'scan' | 'chain' | 'answers' | 'ladder' | 'sweep' | 'integrity' | 'interconnect'>;
  readonly running: Pick<WorkState, 'running' | 'foreign' | 'stageLog'>;
  readonly flash: Pick<
    WorkState,
    'kept' | 'flash' | 'keepChoice' | 'brokenWrite' | 'rehearsal' | 'flashRead' | 'comparison'
  >;
  readonly load: Pick<WorkState, 'loadPlan' | 'loadReport'>;
  readonly jobs: Pick<WorkState, 'jobs'>;
  readonly armed: Pick<WorkState, 'armed' | 'armedBefore'>;
  readonly svf: Pick<WorkState, 'svf'>;
  readonly line: Pick<WorkState, 'line'>;
  readonly files: Pick<WorkState, 'files'>;
  readonly design: Pick<WorkState, 'project' | 'latest' | 'usable' | 'stale' | 'planned' | 'latestCapture'>;
}

interface Needs {
  readonly store: Store;
  readonly facts: FactStore;
  readonly jobs: Jobs;
  readonly board: Board;
  readonly project: OpenProject;
  readonly armed: ArmedRecorders;
  readonly svf: SvfDesk;
  readonly lines: LineBook;
}

/** What concerns the board alone, whatever project is open. */
const BOARD_JOBS: ReadonlySet<Job['kind']> = new Set(['scan', 'diagnose', 'sweep', 'integrity', 'svf']);

/** How each slice is made from what the server holds. */
export function slices(on: Needs): { readonly [S in keyof Slices]: () => Promise<Slices[S]> } {
  const { store, facts, jobs, board, project, armed, svf } = on;
  const openId = async () => (await project.current())?.id ?? null;
  const ofProject = <T extends { readonly project: number | null }>(statement: T | null, open: number | null) =>
    statement && statement.project === open ? statement : null;
  return {
    pod: async () => ({ pod: board.pod, usedBy: board.usedBy }),
    chain: async () => {
      const { scan, ladder, sweep, integrity, interconnect } = board.said;
      const answers = await store.files.answers(board.key, board.name);
      return { scan, ladder, sweep, integrity, interconnect, answers, chain: await project.expectedChain() };
    },
    running: async () => {
      const { running, stageLog } = board.said;
      return { running, stageLog, foreign: await foreignOf(on) };
    },
    flash: async () => {
      const { flash, rehearsal, flashRead, comparison } = board.said;
      const open = await openId();
      const compared = ofProject(comparison, open);
      return {
        kept: await facts.get('kept'),
        flash: ofProject(flash, open),
        keepChoice: (await facts.get('keepChoice')) ?? ALONE,
        brokenWrite: await facts.get('brokenWrite'),
        rehearsal,
        flashRead: flashRead && { start: flashRead.start, length: flashRead.bytes.length, time: flashRead.time },
        comparison: compared && summaryOfComparison(compared),
      };
    },
    load: async () => ({
      loadPlan: (await facts.get('loadPlan')) ?? DEFAULT_PLAN,
      loadReport: ofProject(board.said.loadReport, await openId()),
    }),
    jobs: async () => {
      const open = await openId();
      return { jobs: jobs.list.map((job) => ({ ...job, isHere: isHere(job, board.key, open) })) };
    },
    armed: async () => ({
      armed: armed.list,
      armedBefore: ((await facts.get('armed')) ?? []).map(({ recorder, when }) => ({ recorder, when })),
    }),
    svf: async () => ({ svf: svf.state }),
    line: async () => ({ line: on.lines.state }),
    files: async () => {
      const open = await openId();
      return { files: open === null ? {} : await store.projects.versions(open) };
    },
    design: () => designOf(on),
  };
}

/** The map of a design that runs but was not built in the open project, where its file was given. */
async function foreignOf({ store, board, project }: Needs): Promise<WorkState['foreign']> {
  const fingerprint = board.said.running?.fingerprint ?? null;
  const open = await project.current();
  if (fingerprint === null || !open || (await store.builds.has(open.id, fingerprint))) return null;
  const filed = await store.files.probeMap(fingerprint);
  return { fingerprint, map: filed?.map ?? null, name: filed?.name ?? null };
}

async function designOf({ store, project }: Needs): Promise<Slices['design']> {
  const open = await project.current();
  if (!open)
    return {
      project: null,
      latest: null,
      usable: null,
      stale: [],
      latestCapture: null,
      planned: { recorders: 0, levers: 0, gauges: 0 },
    };
  const [latest, usable, stale, latestCapture, plan, part] = await Promise.all([
    store.builds.summary(open.id),
    store.builds.summary(open.id, true),
    store.staleEdits(open.id),
    store.captures.latest(open.id),
    store.projects.plan(open.id),
    project.part(),
  ]);
  return {
    project: { ...open, part },
    latest,
    usable,
    stale,
    latestCapture,
    planned: {
      recorders: plan.recorders.length,
      levers: plan.panels.reduce((n, p) => n + p.levers.length, 0),
      gauges: plan.panels.reduce((n, p) => n + p.gauges.length, 0),
    },
  };
}

/** Whether a job was done for the board and the project that are before us now. */
function isHere({ kind, boardKey, project, state }: Job, key: string, open: number | null): boolean {
  if (state === 'waiting') return true;
  const isBoards = !isDesignJob(kind);
  const isProjects = !BOARD_JOBS.has(kind);
  return (!isBoards || boardKey === key) && (!isProjects || project === open);
}
