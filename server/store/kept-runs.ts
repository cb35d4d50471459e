import type { Knex } from 'knex';
import { addTo } from './database.ts';

/** A run of a table of vectors as it is kept. */
interface KeptRun<Outcome> {
  readonly id: number;
  readonly file: string;
  readonly created: string;
  readonly result: Outcome;
}

const KEPT_RUNS = 10;

/** Runs of tables with what came of them; the newest few of each project. */
export class KeptRuns<Outcome> {
  readonly #db: Knex;
  readonly #table: string;

  constructor(db: Knex, table: 'vector_runs' | 'table_runs') {
    this.#db = db;
    this.#table = table;
  }

  async add(project: number, file: string, run: object): Promise<number> {
    const result = JSON.stringify(run, (_, value: unknown) => (typeof value === 'bigint' ? value.toString() : value));
    const row = { project, file, created: new Date().toISOString(), result };
    const [id] = (await addTo(this.#db(this.#table).insert(row))) as [number];
    const old = (await this.#db(this.#table)
      .where({ project })
      .orderBy('id', 'desc')
      .offset(KEPT_RUNS)
      .limit(1000)
      .select('id')) as { id: number }[];
    await this.#db(this.#table)
      .whereIn(
        'id',
        old.map((one) => one.id),
      )
      .delete();
    return id;
  }

  async latest(project: number): Promise<KeptRun<Outcome> | null> {
    const row = (await this.#db(this.#table).where({ project }).orderBy('id', 'desc').first()) as
      | { id: number; file: string; created: string; result: string }
      | undefined;
    return row ? { id: row.id, file: row.file, created: row.created, result: JSON.parse(row.result) as Outcome } : null;
  }
}
