import type { Knex } from 'knex';
import type { HardwareRow, Vectors } from '../../core/vectors/index.ts';
import type { Problem } from '../../core/result.ts';
import { addTo } from './database.ts';

/** A table of vectors that was run on hardware, beside what the same rows gave in simulation. */
export interface KeptTable {
  /** The build that ran. */
  readonly fingerprint: string;
  readonly columns: readonly (
    | { readonly kind: 'cycles' }
    | { readonly kind: 'input' | 'expect'; readonly port: string; readonly width: number }
  )[];
  /** Cells as they were written, by row. */
  readonly texts: readonly (readonly string[])[];
  readonly rows: readonly HardwareRow[];
  readonly passed: number;
  readonly failed: number;
  readonly stopped: Problem | 'cancelled' | 'difference' | null;
  readonly notAsked: number;
  /** What outputs were in simulation, by row and column; why there is none. */
  readonly simulated: readonly (readonly (string | null)[])[] | null;
  readonly whyNotSimulated: string | null;
  /** Rows and outputs that are one thing in simulation and another one on hardware. */
  readonly differences: readonly { readonly row: number; readonly port: string }[];
}

export const keptColumns = ({ columns }: Vectors): KeptTable['columns'] =>
  columns.map((column) => (column.kind === 'cycles' ? { kind: 'cycles' } : { ...column }));

export interface TableRunRow {
  readonly id: number;
  readonly file: string;
  readonly created: string;
  readonly result: KeptTable;
}

const KEPT_RUNS = 10;

/** Tables run on hardware; the newest few of each project. */
export class TableRuns {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async add(project: number, file: string, result: KeptTable): Promise<number> {
    const row = { project, file, created: new Date().toISOString(), result: JSON.stringify(result) };
    const [id] = (await addTo(this.#db('table_runs').insert(row))) as [number];
    const old = this.#db('table_runs')
      .where({ project })
      .orderBy('id', 'desc')
      .offset(KEPT_RUNS)
      .limit(1000)
      .select('id');
    const ids = ((await old) as { id: number }[]).map((one) => one.id);
    await this.#db('table_runs').whereIn('id', ids).delete();
    return id;
  }

  async latest(project: number): Promise<TableRunRow | null> {
    const row = (await this.#db('table_runs').where({ project }).orderBy('id', 'desc').first()) as
      | { id: number; file: string; created: string; result: string }
      | undefined;
    return row ? { ...row, result: JSON.parse(row.result) as KeptTable } : null;
  }
}
