import type { Knex } from 'knex';

/** One operation and how it ended. `inputs` names what went in: fingerprints, files, settings. */
export interface LogEntry {
  readonly id: number;
  readonly time: string;
  readonly action: string;
  readonly board: string;
  readonly inputs: Readonly<Record<string, string>>;
  readonly outcome: 'done' | 'failed' | 'cancelled' | 'interrupted' | 'running';
  readonly message: string;
  readonly milliseconds: number;
  /** Name of the project it was done for; empty where that is not known. */
  readonly project: string;
  /** Who did it, where that was not this workbench. */
  readonly by: string;
}

type Stored = Omit<LogEntry, 'inputs'> & { readonly inputs: string };

const MOST_SHOWN = 500;

/**
 * Everything that was done, in order. An entry is opened before the work and closed after it, so a crash leaves a
 * trace.
 */
export class Logbook {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async open(
    action: string,
    board: string,
    inputs: Readonly<Record<string, string>>,
    project = '',
    by = '',
  ): Promise<number> {
    const [id] = (await this.#db('log').insert({
      time: new Date().toISOString(),
      action,
      board,
      inputs: JSON.stringify(inputs),
      outcome: 'running',
      message: '',
      milliseconds: 0,
      project,
      by,
    })) as [number];
    return id;
  }

  async note(id: number, inputs: Readonly<Record<string, string>>): Promise<void> {
    await this.#db('log')
      .where({ id })
      .update({ inputs: JSON.stringify(inputs) });
  }

  async close(id: number, outcome: LogEntry['outcome'], message: string, milliseconds: number): Promise<void> {
    await this.#db('log').where({ id }).update({ outcome, message, milliseconds });
  }

  /** An entry that is over as soon as it is made. */
  async record(action: string, board: string, inputs: Readonly<Record<string, string>>, project = ''): Promise<void> {
    await this.close(await this.open(action, board, inputs, project), 'done', '', 0);
  }

  /** What was running when the server last died. */
  async markInterrupted(): Promise<void> {
    await this.#db('log')
      .where({ outcome: 'running' })
      .update({ outcome: 'interrupted', message: 'The server ended before this was finished.' });
  }

  async list(): Promise<LogEntry[]> {
    const rows = (await this.#db('log').orderBy('id', 'desc').limit(MOST_SHOWN)) as Stored[];
    return rows.map((row) => ({ ...row, inputs: JSON.parse(row.inputs) as Record<string, string> }));
  }
}
