import { createHash } from 'node:crypto';
import { readBitstream } from '../core/fabric/index.ts';
import { describeMismatch, loadBitstream, playSvf } from '../core/operations/index.ts';
import { ProblemError, type Problem, problem, settle } from '../core/result.ts';
import type { StagedFile } from '../core/pod/index.ts';
import type { Bench } from './bench.ts';
import { BenchCable } from './cable.ts';

const MOST_BYTES = 256 << 20;
const MOST_FILES = 8;
const MOST_LINES = 2000;

interface Held {
  file: StagedFile;
  readonly bytes: Uint8Array;
  arrived: number;
}

/** Files that were sent to the pod, and their execution by the pod itself: the network is not needed meanwhile. */
export class Staging {
  readonly #bench: Bench;
  readonly #held = new Map<number, Held>();
  #next = 1;

  constructor(bench: Bench) {
    this.#bench = bench;
  }

  get files(): readonly StagedFile[] {
    return [...this.#held.values()].map(({ file }) => file);
  }

  open(name: string, bytes: number, sha256: string): { id: number } | { refused: Problem } {
    if (bytes > MOST_BYTES)
      return {
        refused: problem('stage-size', `The pod takes files of up to ${MOST_BYTES >> 20} MiB.`, 'Divide the file.'),
      };
    if (this.#held.size >= MOST_FILES)
      return { refused: problem('stage-full', `The pod holds ${MOST_FILES} files already.`, 'Drop one of them.') };
    const id = this.#next++;
    this.#held.set(id, {
      file: { id, name, bytes, sha256, state: 'arriving', log: [], problem: null },
      bytes: new Uint8Array(bytes),
      arrived: 0,
    });
    return { id };
  }

  /** Pieces come in order. */
  take(id: number, piece: Uint8Array): Problem | null {
    const held = this.#held.get(id);
    if (!held || held.arrived + piece.length > held.bytes.length)
      return problem(
        'stage-piece',
        'This piece belongs to no staged file, or is more than was announced.',
        'Stage the file again.',
      );
    held.bytes.set(piece, held.arrived);
    held.arrived += piece.length;
    return null;
  }

  /** Size and digest must be what was announced. */
  check(id: number): Problem | null {
    const held = this.#held.get(id);
    if (!held) return problem('stage-file', 'The pod holds no such file.', 'Stage it again.');
    const digest = createHash('sha256').update(held.bytes).digest('hex');
    if (held.arrived === held.bytes.length && digest === held.file.sha256) {
      this.#set(held, { state: 'ready', log: [`${held.arrived} bytes, SHA-256 ${digest}`] });
      return null;
    }
    this.#held.delete(id);
    return problem(
      'stage-digest',
      held.arrived === held.bytes.length
        ? 'The digest of what arrived differs from what was sent.'
        : `${held.arrived} of ${held.bytes.length} bytes arrived.`,
      'Stage the file again.',
    );
  }

  drop(id: number): boolean {
    return this.#held.get(id)?.file.state !== 'running' && this.#held.delete(id);
  }

  /** Begins; how it goes is in the file's log. */
  execute(id: number, what: 'load' | 'svf', device: number | null, done: () => void): Problem | null {
    const held = this.#held.get(id);
    if (held?.file.state !== 'ready' && held?.file.state !== 'done' && held?.file.state !== 'failed')
      return problem('stage-file', 'The pod holds no such file, or it is not complete.', 'Stage it again.');
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
    const cable = new PoliteCable(this.#bench);
    let told = '';
    const watch = {
      cancelled: () => false,
      report: ({ phase, done, total, unit }: { phase: string; done: number; total: number; unit: string }) => {
        const tenth = total > 0 ? Math.floor((10 * done) / total) : 0;
        if (`${phase} ${tenth}` === told) return;
        told = `${phase} ${tenth}`;
        this.#log(held, `${phase}: ${done} of ${total} ${unit}`);
      },
    };
    try {
      if (what === 'svf') {
        const played = await playSvf(cable, pieces(held.bytes), watch, { totalBytes: held.bytes.length });
        this.#log(held, `${played.commands} commands, ${played.tckCycles} TCK cycles`);
        const [first] = played.mismatches;
        return played.problem ?? (first ? describeMismatch(first) : null);
      }
      const bitstream = readBitstream(held.bytes);
      if (!bitstream.ok) return bitstream.error;
      const loaded = await settle(() => loadBitstream(cable, bitstream.value, device, watch));
      if (!loaded.ok) return loaded.error;
      this.#log(
        held,
        `DONE ${loaded.value.done ? 'high' : 'low'}, fingerprint ${loaded.value.fingerprint ?? 'none'}, ${loaded.value.tckCycles} TCK cycles`,
      );
      return loaded.value.problem;
    } catch (error) {
      if (error instanceof ProblemError) return error.problem;
      throw error;
    }
  }

  #log(held: Held, line: string): void {
    this.#set(held, {
      log: [...held.file.log.slice(-MOST_LINES), `${(this.#bench.time / 1e6).toFixed(3)} s  ${line}`],
    });
  }

  #set(held: Held, change: Partial<StagedFile>): void {
    held.file = { ...held.file, ...change };
  }
}

/** The bench's own cable, which lets the rest of the process breathe between batches. */
class PoliteCable extends BenchCable {
  override async run(ops: Parameters<BenchCable['run']>[0]): Promise<readonly Uint8Array[]> {
    await new Promise((resolve) => setImmediate(resolve));
    return super.run(ops);
  }
}

const PIECE_BYTES = 1 << 16;

function* pieces(bytes: Uint8Array): Iterable<Uint8Array> {
  for (let at = 0; at < bytes.length; at += PIECE_BYTES) yield bytes.subarray(at, at + PIECE_BYTES);
}
