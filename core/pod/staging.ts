import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { Watch } from '../progress.ts';
import { ProblemError, type Problem, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import type { StagedFile } from './staged.ts';
import type { PodTarget } from './target.ts';

/**
 * Carries a file out on a target by itself; `note` takes lines for the file's log. Resolves to what went wrong, or
 * null.
 */
export type CarryOut = (
  job: { readonly what: 'load' | 'svf'; readonly bytes: Uint8Array; readonly device: number | null },
  target: PodTarget,
  watch: Watch,
  note: (line: string) => void,
) => Promise<Problem | null>;

const MOST_BYTES = 256 << 20;
const MOST_FILES = 8;
const MOST_LINES = 2000;
/** A file that nobody has touched for so long makes room for another. */
const STALE_MILLISECONDS = 10 * 60_000;

interface Held {
  file: StagedFile;
  readonly bytes: Uint8Array;
  arrived: number;
  /** Milliseconds on a clock that only goes on. */
  touched: number;
  stopped: boolean;
}

/** Files that were sent to the pod, and their execution by the pod itself: the network is not needed meanwhile. */
export class Staging {
  readonly #target: PodTarget;
  readonly #carryOut: CarryOut;
  readonly #held = new Map<number, Held>();
  #next = 1;

  constructor(target: PodTarget, carryOut: CarryOut) {
    this.#target = target;
    this.#carryOut = carryOut;
  }

  get files(): readonly StagedFile[] {
    return [...this.#held.values()].map(({ file }) => file);
  }

  open(name: string, bytes: number, sha256: string): { id: number } | { refused: Problem } {
    if (bytes > MOST_BYTES)
      return {
        refused: problem('stage-size', { mostBytes: MOST_BYTES >> 20 }),
      };
    if (this.#held.size >= MOST_FILES) this.#makeRoom();
    if (this.#held.size >= MOST_FILES) return { refused: problem('stage-full', { mostFiles: MOST_FILES }) };
    const id = this.#next++;
    this.#held.set(id, {
      file: { id, name, bytes, sha256, state: 'arriving', log: [], problem: null },
      bytes: new Uint8Array(bytes),
      arrived: 0,
      touched: performance.now(),
      stopped: false,
    });
    return { id };
  }

  /** Pieces come in order. */
  take(id: number, piece: Uint8Array): Problem | null {
    const held = this.#held.get(id);
    if (!held || held.arrived + piece.length > held.bytes.length) return problem('stage-piece');
    held.bytes.set(piece, held.arrived);
    held.arrived += piece.length;
    held.touched = performance.now();
    return null;
  }

  /** Size and digest must be what was announced. */
  check(id: number): Problem | null {
    const held = this.#held.get(id);
    if (!held) return problem('stage-file');
    const digest = bytesToHex(sha256(held.bytes));
    if (held.arrived === held.bytes.length && digest === held.file.sha256) {
      this.#set(held, { state: 'ready', log: [`${held.arrived} bytes, SHA-256 ${digest}`] });
      return null;
    }
    this.#held.delete(id);
    return plainProblem(
      'stage-digest',
      held.arrived === held.bytes.length
        ? 'The digest of what arrived differs from what was sent.'
        : `${held.arrived} of ${held.bytes.length} bytes arrived.`,
      'Stage the file again.',
    );
  }

  /** The oldest that has run, else the oldest that was left alone: whoever staged it is not coming back. */
  #makeRoom(): void {
    const now = performance.now();
    const all = [...this.#held.values()].filter(({ file }) => file.state !== 'running');
    const old =
      all.find(({ file }) => file.state === 'done' || file.state === 'failed') ??
      all.find(({ touched }) => now - touched > STALE_MILLISECONDS);
    if (old) this.#held.delete(old.file.id);
  }

  /** Asks what runs to stop where that is safe; false where it does not run. */
  stop(id: number): boolean {
    const held = this.#held.get(id);
    if (held?.file.state !== 'running') return false;
    held.stopped = true;
    this.#log(held, 'Asked to stop');
    return true;
  }

  drop(id: number): boolean {
    return this.#held.get(id)?.file.state !== 'running' && this.#held.delete(id);
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
      return await this.#carryOut({ what, bytes: held.bytes, device }, this.#target, watch, (line) =>
        this.#log(held, line),
      );
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
