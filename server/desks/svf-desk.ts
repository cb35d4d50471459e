import { randomUUID } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import type { Knex } from 'knex';
import type { SvfCommand } from '../../core/svf/index.ts';
import type { SvfPlay } from '../../core/operations/index.ts';
import { ProblemError } from '../../core/result.ts';
import { problem } from './problems.ts';
import { home, type Kept } from '../store/index.ts';

export interface SvfFile {
  readonly id: number;
  readonly name: string;
  readonly bytes: number;
  readonly added: string;
}

/** What the player is doing, as the page shows it. `line` is where the next command begins. */
export interface SvfState {
  readonly file: SvfFile | null;
  readonly mode: 'idle' | 'playing' | 'paused';
  readonly line: number | null;
  readonly commands: number;
  readonly pauseAt: number | null;
  readonly log: readonly string[];
  readonly result: SvfPlay | null;
}

const MOST_FILE_BYTES = 512 << 20;
const MOST_LOG = 400;
const ARRIVING = 'arriving-';
/** Of all files together; the oldest goes for a new one. */
const MOST_FILES = 100;
const MOST_BYTES = 8 * 2 ** 30;
const IDLE: SvfState = { file: null, mode: 'idle', line: null, commands: 0, pauseAt: null, log: [], result: null };

/** SVF files on disk, and the hand on the player: pause, go on, one step. */
export class SvfDesk {
  readonly #db: Knex;
  readonly #changed: () => void;
  #state: SvfState = IDLE;
  #wake: (() => void) | null = null;
  #steps = 0;

  constructor(db: Knex, changed: () => void) {
    this.#db = db;
    this.#changed = changed;
  }

  get state(): SvfState {
    return this.#state;
  }

  files(): Promise<SvfFile[]> {
    return this.#db('svf_files').orderBy('id', 'desc');
  }

  async kept(): Promise<Kept> {
    const files = await this.files();
    const bytes = files.reduce((sum, file) => sum + file.bytes, 0);
    return { count: files.length, bytes, most: MOST_FILES, mostBytes: MOST_BYTES };
  }

  async file(id: number): Promise<SvfFile | null> {
    return (await this.#db('svf_files').where({ id }).first()) ?? null;
  }

  /**
   * Takes an upload piece by piece. It has a place in the list only once all of it is on the disk; nothing stays of one
   * that is too large, breaks off, or brings another number of bytes than it said.
   */
  async add(
    name: string,
    pieces: AsyncIterable<Uint8Array>,
    announced: number | null = null,
  ): Promise<SvfFile & { readonly dropped: readonly string[] }> {
    const arriving = join(this.#folder(), `${ARRIVING}${randomUUID()}`);
    const added = new Date().toISOString();
    try {
      const bytes = await written(arriving, pieces);
      if (announced !== null && bytes !== announced)
        throw new ProblemError(problem('broken-off', { name, bytes, announced }));
      const id = await this.#db.transaction(async (trx) => {
        const [row] = (await trx('svf_files').insert({ name, bytes, added })) as [number];
        renameSync(arriving, this.#path(row));
        return row;
      });
      return { id, name, bytes, added, dropped: await this.#makeRoom() };
    } catch (error) {
      rmSync(arriving, { force: true });
      throw error;
    }
  }

  /** Deletes the oldest beyond what is kept, but for the one that is played; gives the names. */
  async #makeRoom(): Promise<string[]> {
    let bytes = 0;
    const beyond = (await this.files()).filter((file, i) => {
      bytes += file.bytes;
      const isPlayed = this.#state.mode !== 'idle' && this.#state.file?.id === file.id;
      return i > 0 && !isPlayed && (i >= MOST_FILES || bytes > MOST_BYTES);
    });
    for (const { id } of beyond) await this.remove(id);
    return beyond.map(({ name }) => name);
  }

  /** False where it is played just now. */
  async forget(id: number): Promise<boolean> {
    if (this.#state.mode !== 'idle' && this.#state.file?.id === id) return false;
    await this.remove(id);
    return true;
  }

  async remove(id: number): Promise<void> {
    await this.#db('svf_files').where({ id }).delete();
    rmSync(this.#path(id), { force: true });
  }

  read(id: number): AsyncIterable<Uint8Array> | null {
    const path = this.#path(id);
    return existsSync(path) && statSync(path).isFile()
      ? (createReadStream(path, { highWaterMark: 1 << 16 }) as AsyncIterable<Uint8Array>)
      : null;
  }

  /** What an earlier process left half arrived is nobody's, and goes; so do files without a row. */
  async tidy(): Promise<void> {
    const known = new Set((await this.#db('svf_files').select('id')).map(({ id }: { id: number }) => `${id}.svf`));
    for (const name of readdirSync(this.#folder()))
      if (!known.has(name)) rmSync(join(this.#folder(), name), { force: true });
  }

  #folder(): string {
    const folder = join(home(), 'svf');
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    return folder;
  }

  #path(id: number): string {
    return join(this.#folder(), `${Math.trunc(id)}.svf`);
  }

  begin(file: SvfFile, pauseAt: number | null): void {
    this.#steps = 0;
    this.#set({ ...IDLE, file, mode: 'playing', pauseAt });
    this.log(`${file.name}: begun`);
  }

  end(result: SvfPlay | null, told: string): void {
    this.#wake = null;
    this.log(told);
    this.#set({ ...this.#state, mode: 'idle', result });
  }

  /** Waits here while paused. Resolves at once when playing. */
  async gate(command: SvfCommand, cancelled: () => boolean): Promise<void> {
    const { mode, pauseAt } = this.#state;
    const stepped = this.#steps > 0;
    if (stepped) this.#steps--;
    this.#state = { ...this.#state, line: command.line, commands: this.#state.commands + 1 };
    const arrived = mode === 'playing' && pauseAt !== null && command.line >= pauseAt;
    if (arrived) this.#set({ ...this.#state, mode: 'paused', pauseAt: null });
    if (this.#state.mode === 'paused' && !(stepped && !arrived)) {
      this.log(`Paused before line ${command.line}: ${describe(command)}`);
      while (this.#state.mode === 'paused' && this.#steps === 0 && !cancelled()) {
        await new Promise<void>((resolve) => {
          this.#wake = resolve;
          setTimeout(resolve, 500);
        });
      }
      if (this.#steps > 0) this.#steps--;
    }
    if (this.#state.mode === 'paused') this.log(`Line ${command.line}: ${describe(command)}`);
  }

  control(action: 'pause' | 'go' | 'step', pauseAt: number | null): void {
    if (this.#state.mode === 'idle') return;
    if (action === 'step') {
      this.#steps++;
      this.#set({ ...this.#state, mode: 'paused' });
    } else
      this.#set({
        ...this.#state,
        mode: action === 'pause' ? 'paused' : 'playing',
        pauseAt:
          action === 'pause'
            ? this.#state.pauseAt
            : pauseAt !== null && pauseAt > (this.#state.line ?? 0)
              ? pauseAt
              : null,
      });
    this.#wake?.();
  }

  log(line: string): void {
    this.#set({ ...this.#state, log: [...this.#state.log.slice(-MOST_LOG), line] });
  }

  #set(state: SvfState): void {
    this.#state = state;
    this.#changed();
  }
}

/** Bytes that were written, and are on the disk. */
async function written(path: string, pieces: AsyncIterable<Uint8Array>): Promise<number> {
  const file = await open(path, 'wx', 0o600);
  let bytes = 0;
  try {
    for await (const piece of pieces) {
      bytes += piece.length;
      if (bytes > MOST_FILE_BYTES)
        throw new ProblemError(problem('too-large', { mostFileBytes: MOST_FILE_BYTES >> 20 }));
      await file.writeFile(piece);
    }
    await file.sync();
  } finally {
    await file.close();
  }
  return bytes;
}

/** A command in a few words. */
function describe(command: SvfCommand): string {
  switch (command.kind) {
    case 'scan':
      return `${command.name} ${command.length}${command.tdo ? ', TDO compared' : ''}`;
    case 'end-state':
      return `END${command.register} ${command.state}`;
    case 'frequency':
      return command.hz === null ? 'FREQUENCY' : `FREQUENCY ${command.hz} Hz`;
    case 'runtest':
      return [
        'RUNTEST',
        command.count > 0 ? `${command.count} ${command.clock}` : '',
        command.least > 0 ? `${command.least} s` : '',
      ]
        .filter(Boolean)
        .join(' ');
    case 'state':
      return `STATE ${command.path.at(-1) ?? ''}`;
    case 'trst':
      return `TRST ${command.mode}`;
  }
}
