import type { Knex } from 'knex';
import type { LivePanel } from '../core/pod/index.ts';
import type { BoardNet, InterconnectResult, ScannedDevice } from '../core/boundary/index.ts';
import { type BoardDescription, readBoard } from '../core/constraints/index.ts';
import type { BypassTest, Cable, Rung } from '../core/jtag/index.ts';
import { describedChain, type LoadContext, readBoardState, type Scan, scanChain, type Sweep } from '../core/operations/index.ts';
import { fail, ok, problem, type Result } from '../core/result.ts';
import { readProject } from '../core/build/index.ts';
import { portPins, readBitstream } from '../core/fabric/index.ts';
import { openDatabase } from './database.ts';
import { DesignThread } from './design-thread.ts';
import { type BuildRow, Builds, staleBecause } from './builds.ts';
import { Captures } from './captures.ts';
import { FactStore } from './facts.ts';
import { Jobs } from './jobs.ts';
import { Logbook } from './logbook.ts';
import { PodLink, type PodStatus } from './pod-link.ts';
import { Projects } from './projects.ts';
import { seedDemo } from './seed.ts';
import { BenchStore } from './bench-store.ts';
import { type ExpectedChain, expectedChain } from './expected-chain.ts';
import { climbNow } from './operations/bench.ts';
import { scan } from './operations/scan.ts';
import { type Comparison, summaryOfComparison } from './operations/compare-flash.ts';
import type { RehearsalReport } from './operations/keep.ts';
import { ALONE } from './operations/keep-subject.ts';
import { DEFAULT_PLAN, type LoadPlan, type LoadReport } from './operations/load.ts';
import type { PinSession } from './operations/pins.ts';
import { SvfDesk } from './svf-desk.ts';
import { VectorRuns } from './vector-runs.ts';
import type { ArmedCapture, BuildSummary, FlashLook, Running, WorkState } from './state.ts';

export type Listener = (event: { readonly state: WorkState } | { readonly panel: LivePanel | null }) => void;

/** What came of something, and when. */
export type Timed<T> = T & { readonly time: string };

const TELL_MILLISECONDS = 40;

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
  #done: boolean | null = null;
  #was: PodStatus['state'] = 'none';
  #pinNames: { readonly print: string | null; readonly project: number | undefined; readonly names: Readonly<Record<string, string>> } | null = null;
  scan: (Scan & { time: string }) | null = null;
  running: Running | null = null;
  armed: readonly ArmedCapture[] = [];
  /** Recorders that are to be stopped and read at the next look. */
  readonly halts = new Set<string>();
  ladder: Timed<{ readonly rungs: readonly Rung[] }> | null = null;
  sweep: Timed<Sweep> | null = null;
  integrity: Timed<BypassTest & { readonly hz: number }> | null = null;
  interconnect: Timed<InterconnectResult> | null = null;
  loadReport: LoadReport | null = null;
  flash: FlashLook | null = null;
  flashRead: { readonly start: number; readonly bytes: Uint8Array; readonly time: string } | null = null;
  comparison: Comparison | null = null;
  rehearsal: RehearsalReport | null = null;
  pins: PinSession | null = null;
  stageLog: { readonly name: string; readonly log: readonly string[]; readonly time: string } | null = null;
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
    this.facts = new FactStore(db);
    this.jobs = new Jobs(this.logbook, () => this.changed());
    this.pod = new PodLink(
      () => this.#podChanged(),
      (panel) => this.#panel(panel),
      async (client) => {
        client.chainMemory = { answers: await this.bench.answers(this.board), described: await this.bench.known() };
      },
    );
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
    const none = { latest: null, usable: null, stale: [], latestCapture: null, planned: { recorders: 0, levers: 0, gauges: 0 } };
    const common = { pod: this.pod.status, scan: this.scan, running: this.running, kept: await this.facts.get('kept'), armed: this.armed, armedBefore: ((await this.facts.get('armed')) ?? []).map(({ recorder, when }) => ({ recorder, when })), jobs: this.jobs.list, ladder: this.ladder, sweep: this.sweep, integrity: this.integrity, interconnect: this.interconnect, loadReport: this.loadReport, loadPlan: await this.loadPlan(), chain: await this.expected(), answers: await this.bench.answers(this.board), svf: this.svf.state, flash: this.flash, stageLog: this.stageLog, keepChoice: (await this.facts.get('keepChoice')) ?? ALONE, brokenWrite: await this.facts.get('brokenWrite'), rehearsal: this.rehearsal, flashRead: this.flashRead && { start: this.flashRead.start, length: this.flashRead.bytes.length, time: this.flashRead.time }, comparison: this.comparison && summaryOfComparison(this.comparison) };
    if (!project) return { project: null, ...none, ...common };
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
      planned: { recorders: plan.recorders.length, levers: plan.panels.reduce((n, p) => n + p.levers.length, 0), gauges: plan.panels.reduce((n, p) => n + p.gauges.length, 0) },
      ...common,
    };
  }

  async expected(): Promise<ExpectedChain> {
    const project = await this.projects.current();
    return expectedChain(project ? await this.projects.files(project.id) : [], this.scan && this.scan.devices.length > 0 ? this.scan.devices : null);
  }

  async loadPlan(): Promise<LoadPlan> {
    return (await this.facts.get('loadPlan')) ?? DEFAULT_PLAN;
  }

  /** Nets between devices as the project's board descriptions name them. */
  async boardNets(): Promise<readonly BoardNet[]> {
    return (await this.#boards()).flatMap((board) => board.links.map(({ net, pins }) => ({ name: net, pins })));
  }

  /** The flash chip that the project's board description names; null without one. */
  async boardFlash(): Promise<string | null> {
    return (await this.#boards()).find((board) => board.flash !== undefined)?.flash ?? null;
  }

  async #boards(): Promise<readonly BoardDescription[]> {
    const project = await this.projects.current();
    const files = project ? await this.projects.files(project.id) : [];
    return files.filter(({ name }) => name.endsWith('.board.json')).flatMap(({ name, text }) => {
      const read = readBoard(name, text);
      return read.ok ? [read.value] : [];
    });
  }

  /** What pins are called: by the design that runs where it is one of ours, else by the board's nets. */
  async pinNames(): Promise<Readonly<Record<string, string>>> {
    const print = this.running?.fingerprint ?? null;
    const project = await this.projects.current();
    if (this.#pinNames?.print === print && this.#pinNames.project === project?.id) return this.#pinNames.names;
    const names: Record<string, string> = {};
    for (const { name, pins } of await this.boardNets()) for (const pin of pins) names[pin] = name;
    const row = print !== null && project ? await this.builds.byFingerprint(project.id, print) : null;
    const bytes = row ? await this.builds.bitstream(row.id) : null;
    const read = bytes ? readBitstream(bytes) : null;
    if (read?.ok && this.running) for (const { port, bit, width, pin } of portPins(read.value)) names[`${this.running.device}.${pin}`] = width > 1 ? `${port}[${bit}]` : port;
    this.#pinNames = { print, project: project?.id, names };
    return names;
  }

  /** Edits since the newest build with a bitstream, in words. */
  async staleEdits(): Promise<string[]> {
    const project = await this.projects.current();
    if (!project) return [];
    return staleBecause(await this.builds.latestGood(project.id), await this.projects.digests(project.id)).map((edit) => edit.what);
  }

  /** The chain as boundary scan takes it, scanned now. */
  async scannedChain(cable: Cable): Promise<Result<readonly ScannedDevice[]>> {
    const scan = await scanChain(cable);
    const [trouble] = scan.problems;
    if (trouble) return fail(trouble);
    const devices = describedChain(scan.devices, await this.bench.descriptions());
    return devices ? ok(devices) : fail(problem('ir-unknown', 'The chain holds a device whose instruction length is not known.', 'Read its BSDL file under Chain, or give its length.'));
  }

  /** What the checks before a load compare with. */
  async loadContext(madeAt: number | null, isBuild: boolean): Promise<LoadContext> {
    const project = await this.projects.current();
    if (!project) return { boardPart: null, buildPrint: null, stale: [], madeAt, sourcesSavedAt: null, running: this.running?.fingerprint ?? null };
    const [latest, digests, files, [board]] = [await this.builds.latestGood(project.id), await this.projects.digests(project.id), await this.projects.files(project.id), await this.#boards()];
    const saved = files.filter(({ name }) => /\.s?vh?$/.test(name)).map(({ changed }) => Date.parse(changed));
    return {
      boardPart: board?.part ?? null, buildPrint: latest?.details.fingerprint ?? null, stale: staleBecause(latest, digests).map((edit) => edit.what), madeAt,
      sourcesSavedAt: isBuild || saved.length === 0 ? null : Math.max(...saved), running: this.running?.fingerprint ?? null,
    };
  }

  /** Name of the board for the logbook. */
  get board(): string {
    return this.pod.status.name ?? '';
  }

  #tell(event: Parameters<Listener>[0]): void {
    for (const listener of this.#listeners) listener(event);
  }

  #podChanged(): void {
    const { state } = this.pod.status;
    if (state !== 'connected') {
      this.scan = null;
      this.running = null;
      this.pins = null;
      this.flash = null;
      this.#done = null;
      if (state === 'lost' && this.#was === 'connected') void climbNow(this).catch(() => {});
    }
    // Whatever happened meanwhile, the board is looked at before anything else.
    if (state === 'connected' && this.#was === 'lost') scan(this);
    this.#was = state;
    this.changed();
  }

  /** DONE is a lamp anybody can see: when it changes without our doing, the board is asked what it runs now. */
  #panel(panel: LivePanel | null): void {
    this.#tell({ panel });
    const done = panel?.done[String(panel.fpga)] ?? null;
    if (done === this.#done) return;
    this.#done = done;
    if (done === false) {
      this.running = null;
      this.changed();
    } else if (done) void this.lookAtBoard();
  }

  /** Asks the FPGA for status and fingerprint, quietly: trouble shows elsewhere. */
  async lookAtBoard(): Promise<void> {
    const project = await this.projects.current();
    const read = project ? await this.projects.open(project.id) : null;
    if (!read?.ok) return;
    try {
      const state = await this.pod.cable((cable) => readBoardState(cable, read.value.file.part, null));
      this.running = state.ok ? state.value : null;
    } catch {
      this.running = null;
    }
    this.changed();
  }
}

function summarise(row: BuildRow | null): BuildSummary | null {
  if (!row) return null;
  const { details, id, created, milliseconds, good } = row;
  const count = (severity: string) => details.messages.filter((m) => m.severity === severity).length;
  return {
    id, created, milliseconds, good,
    fingerprint: details.fingerprint, part: details.part, top: details.top, resources: details.resources,
    errors: count('error'), serious: details.messages.filter((m) => m.severity === 'serious' && m.accepted === null).length, warnings: count('warning'),
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
  const stored = (await made.db('pods').orderBy('added', 'desc').first()) as { address: string; token: string } | undefined;
  const pod = given === undefined ? stored : { address: given, token: process.env.NIMBLE_POD_TOKEN ?? '' };
  if (pod) void made.pod.use(pod.address, pod.token);
  return made;
}
