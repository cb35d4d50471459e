import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { Watch } from '../progress.ts';
import { ProblemError, type Problem, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import type { StagedFile } from './staged.ts';
import type { PodTarget } from './target.ts';

/** Where the bytes of one file lie: written once, piece by piece, and read as often as it runs. */
interface StagePlace {
  write(piece: Uint8Array): Promise<void>;
  read(): AsyncIterable<Uint8Array>;
  remove(): Promise<void>;
}

/** What is known of a whole file that lies on a shelf. */
export type Shelved = Pick<StagedFile, 'id' | 'name' | 'bytes' | 'sha256'>;

/** Where files lie. One that outlives the pod's process gives them back at its next start. */
export interface StageShelf {
  place(id: number): StagePlace;
  /** What was whole when `remember` was called last. */
  known(): readonly Shelved[];
  remember(files: readonly Shelved[]): void;
}

/**
 * Carries a file out on a target by itself; `note` takes lines for the file's log. Resolves to what went wrong, or
 * null.
 */
export type CarryOut = (
  job: {
    readonly what: 'load' | 'svf';
    readonly size: number;
    readonly bytes: AsyncIterable<Uint8Array>;
    readonly device: number | null;
  },
  target: PodTarget,
  watch: Watch,
  note: (line: string) => void,
) => Promise<Problem | null>;

const MOST_BYTES = 16 * 2 ** 30;
const MOST_FILES = 64;
const MOST_LINES = 2000;
/** A file that has not arrived for so long will not arrive any more. */
const STALE_MILLISECONDS = 10 * 60_000;

interface Held {
  file: StagedFile;
  readonly place: StagePlace;
  readonly digest: ReturnType<typeof sha256.create>;
  arrived: number;
  /** Milliseconds on a clock that only goes on. */
  touched: number;
  stopped: boolean;
}

/** Files that were sent to the pod, and their execution by the pod itself: the network is not needed meanwhile. */
export class Staging {
  readonly #target: PodTarget;
  readonly #carryOut: CarryOut;
  readonly #shelf: StageShelf;
  readonly #held = new Map<number, Held>();
  #next = 1;

  constructor(target: PodTarget, carryOut: CarryOut, shelf: StageShelf = memoryShelf()) {
    this.#target = target;
    this.#carryOut = carryOut;
    this.#shelf = shelf;
    for (const known of shelf.known()) {
      this.#hold({ ...known, state: 'ready', log: [], problem: null });
      this.#next = Math.max(this.#next, known.id + 1);
    }
  }

  get files(): readonly StagedFile[] {
    return [...this.#held.values()].map(({ file }) => file);
  }

  open(name: string, bytes: number, sha256: string): { id: number } | { refused: Problem } {
    if (bytes > MOST_BYTES) return { refused: problem('stage-size', { mostBytes: MOST_BYTES / 2 ** 30 }) };
    this.#dropStale();
    if (this.#held.size >= MOST_FILES) return { refused: problem('stage-full', { mostFiles: MOST_FILES }) };
    const id = this.#next++;
    this.#hold({ id, name, bytes, sha256, state: 'arriving', log: [], problem: null });
    return { id };
  }

  #hold(file: StagedFile): void {
    const { id } = file;
    const place = this.#shelf.place(id);
    const touched = performance.now();
    this.#held.set(id, { file, place, digest: sha256.create(), arrived: 0, touched, stopped: false });
  }

  /** Pieces come in order. */
  async take(id: number, piece: Uint8Array): Promise<Problem | null> {
    const held = this.#held.get(id);
    if (held?.file.state !== 'arriving' || held.arrived + piece.length > held.file.bytes) return problem('stage-piece');
    held.arrived += piece.length;
    held.touched = performance.now();
    held.digest.update(piece);
    try {
      await held.place.write(piece);
      return null;
    } catch (error) {
      await this.#forget(held);
      return problem('stage-disk', { errorText: error instanceof Error ? error.message : String(error) });
    }
  }

  /** Size and digest must be what was announced. */
  async check(id: number): Promise<Problem | null> {
    const held = this.#held.get(id);
    if (held?.file.state !== 'arriving') return problem('stage-file');
    const digest = bytesToHex(held.digest.digest());
    if (held.arrived === held.file.bytes && digest === held.file.sha256) {
      this.#set(held, { state: 'ready', log: [`${held.arrived} bytes, SHA-256 ${digest}`] });
      this.#remember();
      return null;
    }
    await this.#forget(held);
    return plainProblem(
      'stage-digest',
      held.arrived === held.file.bytes
        ? 'The digest of what arrived differs from what was sent.'
        : `${held.arrived} of ${held.file.bytes} bytes arrived.`,
      'Stage the file again.',
    );
  }

  #remember(): void {
    const whole = [...this.#held.values()].filter(({ file }) => file.state !== 'arriving');
    this.#shelf.remember(whole.map(({ file: { id, name, bytes, sha256 } }) => ({ id, name, bytes, sha256 })));
  }

  async #forget(held: Held): Promise<void> {
    this.#held.delete(held.file.id);
    this.#remember();
    await held.place.remove();
  }

  /** Whoever began to send these is not coming back. */
  #dropStale(): void {
    const now = performance.now();
    for (const held of this.#held.values())
      if (held.file.state === 'arriving' && now - held.touched > STALE_MILLISECONDS) void this.#forget(held);
  }

  /** Asks what runs to stop where that is safe; false where it does not run. */
  stop(id: number): boolean {
    const held = this.#held.get(id);
    if (held?.file.state !== 'running') return false;
    held.stopped = true;
    this.#log(held, 'Asked to stop');
    return true;
  }

  async drop(id: number): Promise<boolean> {
    const held = this.#held.get(id);
    if (!held || held.file.state === 'running') return false;
    await this.#forget(held);
    return true;
  }

  /** Begins; how it goes is in the file's log. */
  execute(id: number, what: 'load' | 'svf', device: number | null, done: () => void): Problem | null {
    const held = this.#held.get(id);
    if (held?.file.state !== 'ready' && held?.file.state !== 'done' && held?.file.state !== 'failed')
      return problem('stage-file (not complete)');
    held.stopped = false;
    this.#set(held, { state: 'running', problem: null });
    this.#log(held, `${what === 'load' ? 'Load' : 'SVF'} begun`);
    void this.#run(held, what, device)
      .then((found) => {
        this.#log(held, found ? `Failed: ${found.message}` : 'Done');
        this.#set(held, { state: found ? 'failed' : 'done', problem: found });
      })
      .finally(done);
    return null;
  }

  async #run(held: Held, what: 'load' | 'svf', device: number | null): Promise<Problem | null> {
    let told = '';
    const watch: Watch = {
      cancelled: () => held.stopped,
      report: ({ phase, done, total, unit }) => {
        const tenth = total > 0 ? Math.floor((10 * done) / total) : 0;
        if (`${phase} ${tenth}` === told) return;
        told = `${phase} ${tenth}`;
        this.#log(held, `${phase}: ${done} of ${total} ${unit}`);
      },
    };
    try {
      const job = { what, size: held.file.bytes, bytes: held.place.read(), device };
      return await this.#carryOut(job, this.#target, watch, (line) => this.#log(held, line));
    } catch (error) {
      if (error instanceof ProblemError) return error.problem;
      return problem('pod-fault', { errorText: error instanceof Error ? error.message : String(error) });
    }
  }

  #log(held: Held, line: string): void {
    this.#set(held, {
      log: [...held.file.log.slice(-MOST_LINES), `${this.#clock()} s  ${line}`],
    });
  }

  /** Seconds on the pod's own clock: the board's where it has one, else since the pod began. */
  #clock(): string {
    const microseconds = this.#target.view?.().time ?? performance.now() * 1000;
    return (microseconds / 1e6).toFixed(3);
  }

  #set(held: Held, change: Partial<StagedFile>): void {
    held.touched = performance.now();
    held.file = { ...held.file, ...change };
  }
}

/** Files in memory, for a pod without a folder of its own. */
function memoryShelf(): StageShelf {
  return {
    known: () => [],
    remember: () => {},
    place: () => {
      let pieces: Uint8Array[] = [];
      return {
        write: async (piece) => void pieces.push(piece.slice()),
        read: async function* () {
          yield* pieces;
        },
        remove: async () => {
          pieces = [];
        },
      };
    },
  };
}
