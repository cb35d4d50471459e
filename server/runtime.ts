import type { Knex } from 'knex';
import { type ChainSession, LEAST_VOLTS, type Scan } from '../core/board/index.ts';
import type { PodStatusEvent, ToldDeed } from '../core/pod/index.ts';
import type { BoardNet, ScannedDevice } from '../core/boundary/index.ts';
import { type BoardDescription, readBoard } from '../core/constraints/index.ts';
import { describedChain, type LoadContext, readBoardState } from '../core/operations/index.ts';
import { fail, ok, ProblemError, problem, type Result } from '../core/result.ts';
import { readProject } from '../core/build/index.ts';
import { portPins, readBitstream } from '../core/fabric/index.ts';
import { openDatabase } from './database.ts';
import { DesignThread } from './design-thread.ts';
import { type BuildRow, Builds, staleBecause } from './builds.ts';
import { Captures } from './captures.ts';
import { FactStore } from './facts.ts';
import { type Job, Jobs } from './jobs.ts';
import { Logbook } from './logbook.ts';
import { OWN_NAME, PodLink, type PodStatus } from './pod-link.ts';
import { Boards, type BoardSaid } from './said.ts';
import { Projects } from './projects.ts';
import { seedDemo } from './seed.ts';
import { BenchStore } from './bench-store.ts';
import { type ExpectedChain, expectedChain } from './expected-chain.ts';
import { climbNow } from './operations/bench.ts';
import { scan } from './operations/scan.ts';
import { summaryOfComparison } from './operations/compare-flash.ts';
import { ALONE } from './operations/keep-subject.ts';
import { DEFAULT_PLAN, type LoadPlan } from './operations/load.ts';
import { SvfDesk } from './svf-desk.ts';
import { VectorRuns } from './vector-runs.ts';
import type { ArmedCapture, BuildSummary, WorkState } from './state.ts';

type Listener = (event: { readonly state: WorkState } | { readonly board: PodStatusEvent | null }) => void;

const TELL_MILLISECONDS = 40;
/** A boot takes some tenths of a second; nobody waits longer than this for DONE. */
const BOOT_LOOK_MILLISECONDS = 250;
const BOOT_LOOKS = 12;

/** The one set of long-lived things in the server process. */
export class Runtime {
  readonly db: Knex;
  readonly projects: Projects;
  readonly builds: Builds;
  readonly captures: Captures;
  readonly logbook: Logbook;
  readonly facts: FactStore;
  readonly jobs: Jobs;
  readonly pod: PodLink;
  readonly vectorRuns: VectorRuns;
  readonly designs = new DesignThread();
  /** Prices plans while they are being put together, beside builds. */
  readonly pricing = new DesignThread();
  readonly #listeners = new Set<Listener>();
  #told: ReturnType<typeof setTimeout> | null = null;
  /** Counts what may make the FPGA boot, so that only the last is followed. */
  #bootTurn = 0;
  #powered: boolean | null = null;
  /** Somebody else has the pod, or had it until just now: what runs is asked for as soon as it is free. */
  #usedBy: string | null = null;
  #was: PodStatus['state'] = 'none';
  #pinNames: {
    readonly print: string | null;
    readonly project: number | undefined;
    readonly names: Readonly<Record<string, string>>;
  } | null = null;
  readonly #boards = new Boards();
  /** Name the pod had when it last answered at this address. */
  #podName = '';
  armed: readonly ArmedCapture[] = [];
  /** Recorders that are to be stopped and read at the next look. */
  readonly halts = new Set<string>();
  readonly bench: BenchStore;
  readonly svf: SvfDesk;

  constructor(db: Knex) {
    this.db = db;
    this.projects = new Projects(db);
    this.builds = new Builds(db);
    this.captures = new Captures(db);
    this.vectorRuns = new VectorRuns(db);
    this.bench = new BenchStore(db);
    this.svf = new SvfDesk(db, () => this.changed());
    this.logbook = new Logbook(db);
    this.facts = new FactStore(db, async () => ({
      board: this.boardKey,
      chain: this.said.chain,
      project: (await this.projects.current())?.id ?? null,
    }));
    this.jobs = new Jobs(
      this.logbook,
      () => this.changed(),
      async () => {
        const project = await this.projects.current();
        return { boardKey: this.boardKey, project: project?.id ?? null, projectName: project?.name ?? '' };
      },
    );
    this.pod = new PodLink({
      changed: () => this.#podChanged(),
      onStatus: (status) => this.#shown(status),
      onDeed: (deed) => void this.#heard(deed),
      onScan: (scan) => this.scanned(scan),
      memory: async () => ({
        answers: await this.bench.answers(this.boardKey, this.board),
        described: await this.bench.known(),
      }),
    });
  }

  listen(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Tells all pages, soon, and once for many changes. */
  changed(): void {
    if (this.#told) return;
    this.#told = setTimeout(() => {
      this.#told = null;
      if (this.#listeners.size > 0) void this.state().then((state) => this.#tell({ state }));
    }, TELL_MILLISECONDS);
  }

  async state(): Promise<WorkState> {
    const project = await this.projects.current();
    const none = {
      latest: null,
      usable: null,
      stale: [],
      latestCapture: null,
      planned: { recorders: 0, levers: 0, gauges: 0 },
    };
    const said = this.said;
    const ofProject = <T extends { readonly project: number | null }>(statement: T | null): T | null =>
      statement && statement.project === (project?.id ?? null) ? statement : null;
    const comparison = ofProject(said.comparison);
    const common = {
      pod: this.pod.status,
      usedBy: this.#usedBy,
      scan: said.scan,
      running: said.running,
      kept: await this.facts.get('kept'),
      armed: this.armed,
      armedBefore: ((await this.facts.get('armed')) ?? []).map(({ recorder, when }) => ({ recorder, when })),
      jobs: this.jobs.list.map((job) => ({ ...job, isHere: this.#isHere(job, project?.id ?? null) })),
      ladder: said.ladder,
      sweep: said.sweep,
      integrity: said.integrity,
      interconnect: said.interconnect,
      loadReport: ofProject(said.loadReport),
      loadPlan: await this.loadPlan(),
      chain: await this.expected(),
      answers: await this.bench.answers(this.boardKey, this.board),
      svf: this.svf.state,
      flash: ofProject(said.flash),
      stageLog: said.stageLog,
      keepChoice: (await this.facts.get('keepChoice')) ?? ALONE,
      brokenWrite: await this.facts.get('brokenWrite'),
      rehearsal: said.rehearsal,
      flashRead: said.flashRead && {
        start: said.flashRead.start,
        length: said.flashRead.bytes.length,
        time: said.flashRead.time,
      },
      comparison: comparison && summaryOfComparison(comparison),
    };
    if (!project) return { project: null, ...none, ...common, foreign: null };
    const [latest, usable, digests, captures, plan, files] = await Promise.all([
      this.builds.latest(project.id),
      this.builds.latestGood(project.id),
      this.projects.digests(project.id),
      this.captures.list(project.id),
      this.projects.plan(project.id),
      this.projects.files(project.id),
    ]);
    const read = readProject(files);
    return {
      project: { ...project, part: read.ok ? read.value.file.part : null },
      latest: summarise(latest),
      usable: summarise(usable),
      stale: staleBecause(latest, digests),
      latestCapture: captures[0]?.id ?? null,
      planned: {
        recorders: plan.recorders.length,
        levers: plan.panels.reduce((n, p) => n + p.levers.length, 0),
        gauges: plan.panels.reduce((n, p) => n + p.gauges.length, 0),
      },
      ...common,
      foreign: await this.#foreign(project.id),
    };
  }

  /** The map of a design that runs but was not built in this project, where its file was given. */
  async #foreign(project: number): Promise<WorkState['foreign']> {
    const fingerprint = this.said.running?.fingerprint ?? null;
    if (fingerprint === null || (await this.builds.byFingerprint(project, fingerprint))) return null;
    const filed = await this.bench.probeMap(fingerprint);
    return { fingerprint, map: filed?.map ?? null, name: filed?.name ?? null };
  }

  async expected(): Promise<ExpectedChain> {
    const project = await this.projects.current();
    const { scan } = this.said;
    return expectedChain(
      (await this.facts.get('chain'))?.text ?? null,
      project ? await this.projects.files(project.id) : [],
      scan && scan.devices.length > 0 ? scan.devices : null,
    );
  }

  async loadPlan(): Promise<LoadPlan> {
    return (await this.facts.get('loadPlan')) ?? DEFAULT_PLAN;
  }

  /** Nets between devices as the project's board descriptions name them. */
  async boardNets(): Promise<readonly BoardNet[]> {
    return (await this.#descriptions()).flatMap((board) => board.links.map(({ net, pins }) => ({ name: net, pins })));
  }

  /** The flash chip that the project's board description names; null without one. */
  async boardFlash(): Promise<string | null> {
    return (await this.#descriptions()).find((board) => board.flash !== undefined)?.flash ?? null;
  }

  async #descriptions(): Promise<readonly BoardDescription[]> {
    const project = await this.projects.current();
    const files = project ? await this.projects.files(project.id) : [];
    return files
      .filter(({ name }) => name.endsWith('.board.json'))
      .flatMap(({ name, text }) => {
        const read = readBoard(name, text);
        return read.ok ? [read.value] : [];
      });
  }

  /** What pins are called: by the design that runs where it is one of ours, else by the board's nets. */
  async pinNames(): Promise<Readonly<Record<string, string>>> {
    const print = this.said.running?.fingerprint ?? null;
    const project = await this.projects.current();
    if (this.#pinNames?.print === print && this.#pinNames.project === project?.id) return this.#pinNames.names;
    const names: Record<string, string> = {};
    for (const { name, pins } of await this.boardNets()) for (const pin of pins) names[pin] = name;
    const row = print !== null && project ? await this.builds.byFingerprint(project.id, print) : null;
    const bytes = row ? await this.builds.bitstream(row.id) : null;
    const read = bytes ? readBitstream(bytes) : null;
    const { running } = this.said;
    if (read?.ok && running)
      for (const { port, bit, width, pin } of portPins(read.value))
        names[`${running.device}.${pin}`] = width > 1 ? `${port}[${bit}]` : port;
    this.#pinNames = { print, project: project?.id, names };
    return names;
  }

  /** Edits since the newest build with a bitstream, in words. */
  async staleEdits(): Promise<string[]> {
    const project = await this.projects.current();
    if (!project) return [];
    return staleBecause(await this.builds.latestGood(project.id), await this.projects.digests(project.id)).map(
      (edit) => edit.what,
    );
  }

  /** The chain as boundary scan takes it, scanned now. */
  async scannedChain(chain: ChainSession): Promise<Result<readonly ScannedDevice[]>> {
    const scan = await chain.current();
    const [trouble] = scan.problems;
    if (trouble) return fail(trouble);
    const devices = describedChain(scan.devices, await this.bench.descriptions());
    return devices
      ? ok(devices)
      : fail(
          problem(
            'ir-unknown',
            'The chain holds a device whose instruction length is not known.',
            'Read its BSDL file under Chain, or give its length.',
          ),
        );
  }

  /** What the checks before a load compare with. */
  async loadContext(madeAt: number | null, isBuild: boolean): Promise<LoadContext> {
    const project = await this.projects.current();
    if (!project)
      return {
        boardPart: null,
        buildPrint: null,
        stale: [],
        madeAt,
        sourcesSavedAt: null,
        running: this.said.running?.fingerprint ?? null,
      };
    const [latest, digests, files, [board]] = [
      await this.builds.latestGood(project.id),
      await this.projects.digests(project.id),
      await this.projects.files(project.id),
      await this.#descriptions(),
    ];
    const saved = files.filter(({ name }) => /\.s?vh?$/.test(name)).map(({ changed }) => Date.parse(changed));
    return {
      boardPart: board?.part ?? null,
      buildPrint: latest?.details.fingerprint ?? null,
      stale: staleBecause(latest, digests).map((edit) => edit.what),
      madeAt,
      sourcesSavedAt: isBuild || saved.length === 0 ? null : Math.max(...saved),
      running: this.said.running?.fingerprint ?? null,
    };
  }

  /** Name of the open project for the logbook; empty without one. */
  async projectName(): Promise<string> {
    return (await this.projects.current())?.name ?? '';
  }

  /** Name of the board for the logbook. */
  get board(): string {
    return this.pod.status.name ?? '';
  }

  #tell(event: Parameters<Listener>[0]): void {
    for (const listener of this.#listeners) listener(event);
  }

  #podChanged(): void {
    const { state, name } = this.pod.status;
    if (state === 'connected') this.#podName = name ?? '';
    if (state === 'none' || state === 'connecting') {
      this.#podName = '';
      this.#usedBy = null;
    }
    if (state !== 'connected') {
      this.#boards.lost(this.boardKey);
      this.#powered = null;
      if (state === 'lost' && this.#was === 'connected') void climbNow(this).catch(() => {});
    }
    // A ladder that was climbed without a pod says nothing any more once one answers.
    const { ladder } = this.said;
    if (state === 'connected' && ladder?.rungs.some((rung) => rung.name === 'pod' && rung.state === 'fail'))
      this.said.ladder = null;
    // Whatever happened meanwhile, the board is looked at before anything else.
    if (state === 'connected' && this.#was === 'lost') scan(this);
    this.#was = state;
    this.changed();
  }

  /** What the pod tells unasked: when power comes or goes without our doing, the board is asked anew. */
  #shown(status: PodStatusEvent | null): void {
    this.#tell({ board: status });
    const powered = status ? status.cable.attached && status.cable.referenceVolts >= LEAST_VOLTS : null;
    const changed = powered !== this.#powered;
    const cameBack = powered === true && this.#powered === false;
    this.#powered = powered;
    const lease = status?.lease ?? null;
    const usedBy = lease === null || lease === OWN_NAME ? null : lease;
    const freed = this.#usedBy !== null && usedBy === null;
    if (usedBy !== this.#usedBy) {
      this.#usedBy = usedBy;
      // What others do to the board meanwhile is not known here, neither to the FPGA nor to its flash.
      this.said.flash = null;
      this.changed();
    }
    if (!status || (!changed && !freed)) return;
    if (powered === false || usedBy !== null) {
      this.said.running = null;
      this.changed();
      return;
    }
    if (cameBack) void this.rescan();
    this.boots();
  }

  /** The FPGA is, or may be, reading its flash: it is asked until it runs, or has had the time to. */
  boots(): void {
    const turn = ++this.#bootTurn;
    const ask = async (left: number): Promise<void> => {
      if (turn !== this.#bootTurn) return;
      await this.lookAtBoard();
      const status = this.said.running?.status;
      if (left > 0 && status && !status.done && status.bootSource === 'flash')
        setTimeout(() => void ask(left - 1), BOOT_LOOK_MILLISECONDS);
    };
    void ask(BOOT_LOOKS);
  }

  /** Something that others did to this board: it belongs into its history, told apart from what was done here. */
  async #heard(deed: ToldDeed): Promise<void> {
    const last = await this.facts.get('lastDeed');
    if (last && last.pod === deed.pod && last.number >= deed.number) return;
    await this.facts.set('lastDeed', { pod: deed.pod, number: deed.number });
    const { kind, outcome, device, part, fingerprint, source, verified, leaves, chip, message, by, time } = deed;
    const entry = await this.logbook.open(
      kind === 'load' ? 'Load' : 'Keep',
      this.board,
      { by, source, part, ...(fingerprint ? { build: fingerprint.slice(0, 8) } : {}), ...(chip ? { chip } : {}) },
      '',
      by,
    );
    await this.logbook.close(entry, outcome, message, 0);
    if (kind === 'load')
      await this.bench.addLoad({
        time,
        board: this.board,
        device: device ?? -1,
        part,
        fingerprint: fingerprint ?? '',
        source,
        outcome,
        verified,
        by,
      });
    else {
      if (!leaves)
        await this.facts.set(
          'kept',
          outcome === 'done' && fingerprint !== null && chip !== null
            ? { fingerprint, chip, time, layout: null, project: null, by }
            : null,
        );
      this.said.flash = null;
      this.said.rehearsal = null;
    }
    this.changed();
  }

  /**
   * Key of the board that answers now, or last answered, at the pod's address: whatever is said of hardware is said of
   * it.
   */
  get boardKey(): string {
    return `${this.pod.status.address ?? ''} ${this.#podName}`;
  }

  get said(): BoardSaid {
    return this.#boards.of(this.boardKey);
  }

  /** Writes down a scan, however it came about. */
  scanned(scan: Scan): void {
    this.#boards.scanned(this.boardKey, { ...scan, time: new Date().toISOString() });
    this.changed();
  }

  /** Looks again where the last scan had found trouble, quietly. */
  async rescan(): Promise<void> {
    if (!this.said.scan || this.said.scan.problems.length === 0) return;
    await this.pod.cable((chain) => chain.rescan()).catch(() => null);
  }

  /** Whether a job was done for the board and the project that are before us now. */
  #isHere({ kind, boardKey, project, state }: Job, current: number | null): boolean {
    if (state === 'waiting') return true;
    const isBoards = kind !== 'build' && kind !== 'vectors';
    const isProjects = !BOARD_JOBS.has(kind);
    return (!isBoards || boardKey === this.boardKey) && (!isProjects || project === current);
  }

  /** Asks the FPGA for status and fingerprint, quietly: trouble shows elsewhere. */
  async lookAtBoard(): Promise<void> {
    const project = await this.projects.current();
    const read = project ? await this.projects.open(project.id) : null;
    const said = this.said;
    if (!read?.ok) return;
    try {
      const state = await this.pod.cable((chain) => readBoardState(chain, read.value.file.part, null));
      said.running = state.ok ? state.value : null;
    } catch (error) {
      said.running = null;
      // The one who has it will be done some time, which the panel shows.
      if (error instanceof ProblemError && error.problem.code === 'pod-busy') this.#usedBy ??= 'somebody else';
    }
    this.changed();
  }
}

/** What concerns the board alone, whatever project is open. */
const BOARD_JOBS: ReadonlySet<Job['kind']> = new Set(['scan', 'diagnose', 'sweep', 'integrity', 'svf']);

function summarise(row: BuildRow | null): BuildSummary | null {
  if (!row) return null;
  const { details, id, created, milliseconds, good } = row;
  const count = (severity: string) => details.messages.filter((m) => m.severity === severity).length;
  return {
    id,
    created,
    milliseconds,
    good,
    fingerprint: details.fingerprint,
    part: details.part,
    top: details.top,
    resources: details.resources,
    errors: count('error'),
    serious: details.messages.filter((m) => m.severity === 'serious' && m.accepted === null).length,
    warnings: count('warning'),
    cores: details.probes?.cores.map((core) => `${core.kind} ${core.name}`) ?? [],
  };
}

const HOLDER = Symbol.for('nimble.runtime');
type Held = { [HOLDER]?: Promise<Runtime> };

/** The server bundles its routes apart, so the one runtime hangs on the process itself. */
export function runtime(): Promise<Runtime> {
  const held = globalThis as Held;
  held[HOLDER] ??= start();
  return held[HOLDER];
}

async function start(): Promise<Runtime> {
  const made = new Runtime(await openDatabase());
  await made.logbook.markInterrupted();
  await seedDemo(made.projects);
  made.designs.warm();
  const given = process.env.NIMBLE_POD_ADDRESS;
  const stored = (await made.db('pods').orderBy('added', 'desc').first()) as
    | { address: string; token: string }
    | undefined;
  const pod = given === undefined ? stored : { address: given, token: process.env.NIMBLE_POD_TOKEN ?? '' };
  if (pod) void made.pod.use(pod.address, pod.token);
  return made;
}
