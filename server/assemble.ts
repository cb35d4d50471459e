import type { Knex } from 'knex';
import type { PodStatusEvent } from '../core/pod/index.ts';
import { Board } from './board/index.ts';
import { ArmedRecorders, type Desks, desksOf, heardDeed, SvfDesk } from './desks/index.ts';
import { type Job, Jobs } from './jobs/index.ts';
import { LineBook } from './line/index.ts';
import { OpenProject } from './project/index.ts';
import { FactStore, openStore, type Store } from './store/index.ts';
import { Publisher, type Slices, slices } from './stream/index.ts';
import { DesignThread, ReadingThread, SimulationThread } from './threads/index.ts';

/** What routes are given: the desks, what is stored, the board, and what pages are told. */
export interface Server {
  readonly store: Store;
  readonly facts: FactStore;
  readonly jobs: Jobs;
  readonly board: Board;
  readonly project: OpenProject;
  readonly designs: DesignThread;
  readonly pricing: DesignThread;
  readonly svf: SvfDesk;
  readonly lines: LineBook;
  readonly armed: ArmedRecorders;
  readonly desks: Desks;
  readonly state: Publisher<Slices>;
  /** Hears what the pod tells of itself and the board, many times a second. */
  onBoard(listener: (status: PodStatusEvent | null) => void): () => void;
  close(): Promise<void>;
}

/** Puts the parts together; each is given what it needs of the others and no more. */
export function assemble(db: Knex): Server {
  const store = openStore(db);
  const boardListeners = new Set<(status: PodStatusEvent | null) => void>();
  const changed = () => state.changed();
  const board: Board = new Board({
    memory: async (key, name) => ({
      answers: await store.files.answers(key, name),
      described: await store.files.known(),
    }),
    descriptions: () => store.files.descriptions(),
    part: () => project.part(),
    families: () => project.families(),
    changed,
    onStatus: (status) => {
      for (const listener of boardListeners) listener(status);
    },
    onLine: (heard) => lines.heard(heard),
    lineFrom: () => lines.next,
    onLineFrom: (next) => lines.heardFrom(next),
    onDeed: (deed) => void heardDeed({ board, facts, store, changed }, deed),
    onLost: () => {
      lines.note('the connection to the pod was lost');
      void desks.bench.climbNow().catch(() => {});
    },
    onBack: () => void desks.bench.scan(),
  });
  const facts = new FactStore(db, async () => ({
    board: board.key,
    chain: board.said.chain,
    project: (await store.projects.current())?.id ?? null,
  }));
  const project = new OpenProject({ store, board, facts });
  const lines: LineBook = new LineBook(
    () => board.key,
    () => state.changed('line'),
  );
  const told = new Set<number>();
  const jobs: Jobs = new Jobs({
    logbook: store.logbook,
    changed: (ended) => {
      if (!ended) return state.changed('jobs');
      noteDone(jobs, lines, told);
      changed();
    },
    where: async () => {
      const open = await store.projects.current();
      return { boardKey: board.key, project: open?.id ?? null, projectName: open?.name ?? '' };
    },
  });
  const svf = new SvfDesk(db, () => state.changed('svf'));
  const armed = new ArmedRecorders();
  const [designs, pricing] = [new DesignThread(), new DesignThread()];
  const simulations = new SimulationThread();
  const reading = new ReadingThread();
  const desks = desksOf({
    store,
    facts,
    jobs,
    board,
    project,
    designs,
    simulations,
    pricing,
    reading,
    armed,
    svf,
    lines,
    changed,
  });
  const state: Publisher<Slices> = new Publisher<Slices>(
    slices({ store, facts, jobs, board, project, armed, svf, lines }),
  );
  return {
    store,
    facts,
    jobs,
    board,
    project,
    designs,
    pricing,
    svf,
    lines,
    armed,
    desks,
    state,
    onBoard: (listener) => {
      boardListeners.add(listener);
      return () => boardListeners.delete(listener);
    },
    close: () => db.destroy(),
  };
}

/** What is done to a board stands among what it says: its power, what it is loaded with, what was captured of it. */
const BOARD_WORK: readonly Job['kind'][] = ['load', 'power', 'keep', 'capture', 'stage', 'svf'];

function noteDone(jobs: Jobs, lines: LineBook, told: Set<number>): void {
  for (const { id, kind, endedAt, title, state, message } of jobs.list) {
    if (endedAt === null || told.has(id) || !BOARD_WORK.includes(kind)) continue;
    told.add(id);
    lines.note(state === 'done' ? `${title}: ${message}` : `${title}: ${state}`);
  }
}
