import type { Knex } from 'knex';
import type { VectorRun } from '../../core/vectors/index.ts';

/** A run of test vectors as it is kept. Big integers are decimal text. */
interface VectorRunRow {
  readonly id: number;
  readonly file: string;
  readonly created: string;
  readonly result: unknown;
}

const KEPT_RUNS = 10;

/** Runs of test vectors with their waveforms; the newest few of each project. */
export class VectorRuns {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async add(project: number, file: string, run: VectorRun): Promise<number> {
    const result = JSON.stringify(run, (_, value: unknown) => (typeof value === 'bigint' ? value.toString() : value));
    const [id] = (await this.#db('vector_runs').insert({
      project,
      file,
      created: new Date().toISOString(),
      result,
    })) as [number];
    const old = (await this.#db('vector_runs')
      .where({ project })
      .orderBy('id', 'desc')
      .offset(KEPT_RUNS)
      .limit(1000)
      .select('id')) as { id: number }[];
    await this.#db('vector_runs')
      .whereIn(
        'id',
        old.map((row) => row.id),
      )
      .delete();
    return id;
  }

  async latest(project: number): Promise<VectorRunRow | null> {
    const row = (await this.#db('vector_runs').where({ project }).orderBy('id', 'desc').first()) as
      | { id: number; file: string; created: string; result: string }
      | undefined;
    return row ? { id: row.id, file: row.file, created: row.created, result: JSON.parse(row.result) as unknown } : null;
  }
}
