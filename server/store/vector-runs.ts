import type { Knex } from 'knex';
import { addTo } from './database.ts';
import type { VectorRun } from '../../core/vectors/index.ts';
import type { StepRecord } from '../../core/wave/index.ts';

/** A run of test vectors as it is kept. */
interface VectorRunRow {
  readonly id: number;
  readonly file: string;
  readonly created: string;
  readonly result: KeptResult;
}

/** What a run gave, row by row. */
export interface KeptResult {
  readonly passed: number;
  readonly failed: number;
  readonly failures: readonly { readonly row: number; readonly port: string; readonly actual: string }[];
  readonly vectors: {
    readonly columns: readonly (
      | { readonly kind: 'cycles' }
      | { readonly kind: 'input' | 'expect'; readonly port: string }
    )[];
    readonly rows: readonly { readonly row: number; readonly texts: readonly string[] }[];
  };
  readonly actual: readonly (readonly (string | null)[])[];
  /** Step of the trace at which each row ended; absent in runs of before. */
  readonly ends?: readonly number[];
  readonly trace: StepRecord & { readonly cut: boolean };
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
    const [id] = (await addTo(
      this.#db('vector_runs').insert({
        project,
        file,
        created: new Date().toISOString(),
        result,
      }),
    )) as [number];
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
    return row
      ? { id: row.id, file: row.file, created: row.created, result: JSON.parse(row.result) as KeptResult }
      : null;
  }
}
