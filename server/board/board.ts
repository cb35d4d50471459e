import type { ScannedDevice } from '../../core/boundary/index.ts';
import type { BsdlEntity } from '../../core/bsdl/index.ts';
import { type ChainSession, isPowered, type Scan } from '../../core/board/index.ts';
import type { Family } from '../../core/families/index.ts';
import type { ChainMemory } from '../../core/jtag/index.ts';
import { describedChain, readBoardState } from '../../core/operations/index.ts';
import type { HeardOnLine, PodClient, PodStatusEvent, ToldDeed } from '../../core/pod/index.ts';
import { fail, ok, ProblemError, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import { OWN_NAME, PodLink, type PodStatus } from '../link/index.ts';
import { type BoardSaid, Boards } from './said.ts';

/** What the board asks of others, and whom it tells. */
interface BoardNeeds {
  /** What is said of the chain of a board, by its key and its name. */
  readonly memory: (key: string, name: string) => Promise<ChainMemory>;
  readonly descriptions: () => Promise<readonly BsdlEntity[]>;
  /** Families whose parts are known now. */
  readonly families: () => Promise<readonly Family[]>;
  /** Part of the open project: of several FPGAs the one that is asked what it runs. */
  readonly part: () => Promise<string | null>;
  readonly changed: () => void;
  readonly onStatus: (status: PodStatusEvent | null) => void;
  readonly onDeed: (deed: ToldDeed) => void;
  /** What comes on its serial line; from which byte on it is wanted, and from which it comes. */
  readonly onLine: (heard: HeardOnLine) => void;
  readonly lineFrom: () => number;
  readonly onLineFrom: (next: number) => void;
  /** The pod is gone that was there; it is there again. */
  readonly onLost: () => void;
  readonly onBack: () => void;
}

/** A boot takes some tenths of a second; nobody waits longer than this for DONE. */
const BOOT_LOOK_MILLISECONDS = 250;
const BOOT_LOOKS = 12;

/**
 * The board that answers at the pod in use: its cable, and what is known of it. Every statement is kept by the board's
 * key, so that nothing is told of one board that was found out about another.
 */
export class Board {
  readonly #needs: BoardNeeds;
  readonly #link: PodLink;
  readonly #boards = new Boards();
  /** Name the pod had when it last answered at this address. */
  #podName = '';
  #powered: boolean | null = null;
  /** Counts what may make the FPGA boot, so that only the last is followed. */
  #bootTurn = 0;
  #usedBy: string | null = null;
  #was: PodStatus['state'] = 'none';

  constructor(needs: BoardNeeds) {
    this.#needs = needs;
    this.#link = new PodLink({
      changed: () => this.#podChanged(),
      onStatus: (status) => this.#shown(status),
      onDeed: needs.onDeed,
      onLine: needs.onLine,
      lineFrom: needs.lineFrom,
      onLineFrom: needs.onLineFrom,
      onScan: (scan) => this.#scanned(scan),
      memory: () => needs.memory(this.key, this.name),
      families: needs.families,
    });
  }

  /**
   * Key of the board that answers now, or last answered, at the pod's address: whatever is said of hardware is said of
   * it.
   */
  get key(): string {
    return `${this.#link.status.address ?? ''} ${this.#podName}`;
  }

  /** Name of the board for the logbook; empty without one. */
  get name(): string {
    return this.#link.status.name ?? '';
  }

  get said(): BoardSaid {
    return this.#boards.of(this.key);
  }

  /** Somebody else has the pod, or had it until just now: what runs is asked for as soon as it is free. */
  get usedBy(): string | null {
    return this.#usedBy;
  }

  get pod(): PodStatus {
    return this.#link.status;
  }

  /** What the pod last told of itself and the board. */
  get shown(): PodStatusEvent | null {
    return this.#link.shown;
  }

  get tckHz(): number {
    return this.#link.tckHz;
  }

  /** How often the board has been handed out: whoever finds it unchanged was the last to use it. */
  get turns(): number {
    return this.#link.turns;
  }

  /** Takes another pod; resolves when the first attempt has ended. */
  use(address: string, token: string): Promise<void> {
    return this.#link.use(address, token);
  }

  /** Has a simulated pod stand on another bench, and meets that one. */
  async useBench(text: string): Promise<void> {
    await this.hands().useBenchFile(text);
    await this.#link.again();
  }

  /** Runs work that has the board to itself, here and at the pod. */
  cable<T>(work: (chain: ChainSession) => Promise<T>): Promise<T> {
    return this.#link.cable(work);
  }

  /** The hands: need no lease. */
  hands(): PodClient {
    return this.#link.hands();
  }

  /** Runs work for which the pod takes the board to itself: nothing of ours holds it meanwhile. */
  handsOff<T>(work: (hands: PodClient) => Promise<T>): Promise<T> {
    return this.#link.handsOff(work);
  }

  /** Looks again where the last scan had found trouble, quietly. */
  async rescan(): Promise<void> {
    if (!this.said.scan || this.said.scan.problems.length === 0) return;
    await this.cable((chain) => chain.rescan()).catch(() => null);
  }

  /** The chain as boundary scan takes it, as it is now. */
  async scannedChain(chain: ChainSession): Promise<Result<readonly ScannedDevice[]>> {
    const scan = await chain.current();
    const [trouble] = scan.problems;
    if (trouble) return fail(trouble);
    const devices = await describedChain(chain, await this.#needs.descriptions());
    return devices ? ok(devices) : fail(problem('ir-unknown'));
  }

  /** Asks the FPGA for status and fingerprint, quietly: trouble shows elsewhere. */
  async look(): Promise<void> {
    const part = await this.#needs.part();
    const { said } = this;
    if (part === null) return;
    try {
      const state = await this.cable((chain) => readBoardState(chain, part, null));
      said.running = state.ok ? state.value : null;
    } catch (error) {
      said.running = null;
      // The one who has it will be done some time, which the pod tells.
      if (error instanceof ProblemError && error.problem.code === 'pod-busy') this.#usedBy ??= 'somebody else';
    }
    this.#needs.changed();
  }

  /** The FPGA is, or may be, reading its flash: it is asked until it runs, or has had the time to. */
  boots(): void {
    const turn = ++this.#bootTurn;
    const ask = async (left: number): Promise<void> => {
      if (turn !== this.#bootTurn) return;
      await this.look();
      const status = this.said.running?.status;
      if (left > 0 && status && !status.done && status.bootSource === 'flash')
        setTimeout(() => void ask(left - 1), BOOT_LOOK_MILLISECONDS).unref();
    };
    void ask(BOOT_LOOKS);
  }

  /** Writes down a scan, however it came about. */
  #scanned(scan: Scan): void {
    this.#boards.scanned(this.key, { ...scan, time: new Date().toISOString() });
    this.#needs.changed();
  }

  #podChanged(): void {
    const { state, name } = this.#link.status;
    if (state === 'connected') this.#podName = name ?? '';
    if (state === 'none' || state === 'connecting') {
      this.#podName = '';
      this.#usedBy = null;
    }
    const was = this.#was;
    this.#was = state;
    if (state !== 'connected') {
      this.#boards.lost(this.key);
      this.#powered = null;
      if (state === 'lost' && was === 'connected') this.#needs.onLost();
    }
    // A ladder that was climbed without a pod says nothing any more once one answers.
    const { ladder } = this.said;
    if (state === 'connected' && ladder?.rungs.some((rung) => rung.name === 'pod' && rung.state === 'fail'))
      this.said.ladder = null;
    // Whatever happened meanwhile, the board is looked at before anything else.
    if (state === 'connected' && was === 'lost') this.#needs.onBack();
    this.#needs.changed();
  }

  /** What the pod tells unasked: when power comes or goes without our doing, the board is asked anew. */
  #shown(status: PodStatusEvent | null): void {
    this.#needs.onStatus(status);
    const powered = status ? isPowered(status.cable) : null;
    const changed = powered !== this.#powered;
    const cameBack = powered === true && this.#powered === false;
    this.#powered = powered;
    const freed = this.#heldBy(status?.lease ?? null);
    if (!status || (!changed && !freed)) return;
    if (powered === false || this.#usedBy !== null) {
      this.said.running = null;
      return this.#needs.changed();
    }
    if (cameBack) void this.rescan();
    this.boots();
  }

  /** Follows who holds the pod; whether somebody else has just let go of it. */
  #heldBy(lease: string | null): boolean {
    const usedBy = lease === null || lease === OWN_NAME ? null : lease;
    const freed = this.#usedBy !== null && usedBy === null;
    if (usedBy === this.#usedBy) return freed;
    this.#usedBy = usedBy;
    // What others do to the board meanwhile is not known here, neither to the FPGA nor to its flash.
    this.said.flash = null;
    if (usedBy !== null) this.said.running = null;
    this.#needs.changed();
    return freed;
  }
}
