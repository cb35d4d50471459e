import { gunzipSync, gzipSync } from 'node:zlib';
import type { Knex } from 'knex';
import { type WaveView, waveView } from '../../core/wave/index.ts';
import type { TestbenchRun } from '../threads/index.ts';
import { addTo } from './database.ts';

/** A run of a testbench as it is kept; the dump lies beside it. */
interface SimulationRow {
  readonly id: number;
  readonly testbench: string;
  readonly created: string;
  readonly result: Omit<TestbenchRun, 'dump'>;
}

const KEPT_RUNS = 5;

/** Runs of testbenches; the newest few of each project. */
export class Simulations {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async add(project: number, testbench: string, { dump, ...result }: TestbenchRun): Promise<number> {
    const [id = 0] = await addTo(
      this.#db('simulations').insert({
        project,
        testbench,
        created: new Date().toISOString(),
        result: JSON.stringify(result),
        dump: dump === null ? null : gzipSync(dump),
      }),
    );
    const old: { id: number }[] = await this.#db('simulations')
      .where({ project })
      .orderBy('id', 'desc')
      .offset(KEPT_RUNS)
      .limit(1000)
      .select('id');
    const gone = old.map((row) => row.id);
    await this.#db('simulations').whereIn('id', gone).delete();
    return id;
  }

  async latest(project: number): Promise<SimulationRow | null> {
    const row: { id: number; testbench: string; created: string; result: string } | undefined = await this.#db(
      'simulations',
    )
      .where({ project })
      .orderBy('id', 'desc')
      .first('id', 'testbench', 'created', 'result');
    return row ? { ...row, result: JSON.parse(row.result) } : null;
  }

  /** Runs that have waves, newest first. */
  async list(project: number): Promise<Pick<SimulationRow, 'id' | 'testbench' | 'created'>[]> {
    return this.#db('simulations')
      .where({ project })
      .whereNotNull('dump')
      .orderBy('id', 'desc')
      .select('id', 'testbench', 'created');
  }

  /** How the waves of a testbench were last looked at; null for never. */
  async view(project: number, testbench: string): Promise<WaveView | null> {
    const row: { view: string } | undefined = await this.#db('testbench_views')
      .where({ project, testbench })
      .first('view');
    const read = row && waveView.safeParse(JSON.parse(row.view));
    return read?.success ? read.data : null;
  }

  async saveView(project: number, testbench: string, view: WaveView): Promise<void> {
    await this.#db('testbench_views')
      .insert({ project, testbench, view: JSON.stringify(view) })
      .onConflict(['project', 'testbench'])
      .merge();
  }

  /** The value change dump of a run; null where there is none. */
  async dump(project: number, id: number): Promise<{ readonly testbench: string; readonly bytes: Uint8Array } | null> {
    const row: { testbench: string; dump: Uint8Array | null } | undefined = await this.#db('simulations')
      .where({ project, id })
      .first('testbench', 'dump');
    return row?.dump ? { testbench: row.testbench, bytes: new Uint8Array(gunzipSync(row.dump)) } : null;
  }
}
