import type { Knex } from 'knex';
import { addTo } from './database.ts';
import { type Capture, type WaveView, waveView } from '../../core/wave/index.ts';

interface CaptureRow {
  readonly id: number;
  readonly created: string;
  readonly capture: Capture;
  /** How it was last looked at. */
  readonly view: WaveView | null;
}

type About = Omit<Capture, 'data'>;

/** A capture in a list; what was recorded is fetched where it is looked at. */
export interface ListedCapture {
  readonly id: number;
  readonly created: string;
  readonly recorder: string;
  readonly condition: string;
  readonly samples: number;
  readonly bytes: number;
  /** What others are compared with; one a project at most. */
  readonly isReference: boolean;
}

/** So many of a list, and how many and how much there is of all. */
interface CaptureList {
  readonly captures: readonly ListedCapture[];
  readonly kept: Kept;
}

/** How much of something is kept, and how much may be. */
export interface Kept {
  readonly count: number;
  readonly bytes: number;
  readonly most: number;
  readonly mostBytes: number;
}

export const isFull = ({ count, bytes, most, mostBytes }: Kept): boolean => count >= most || bytes >= mostBytes;

interface Row {
  readonly id: number;
  readonly created: string;
  readonly about: string;
  readonly data: Buffer;
  readonly view: string | null;
}

/** Of one project. What would be beyond is not recorded: captures are nobody's to delete but the one who took them. */
const MOST_CAPTURES = 5000;
const MOST_CAPTURE_BYTES = 2 ** 31;

/** Captures, kept with the build, the plan and the condition they came from, and with how they were looked at. */
export class Captures {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async add(project: number, { data, ...about }: Capture): Promise<number> {
    const [id] = (await addTo(
      this.#db('captures').insert({
        project,
        created: new Date().toISOString(),
        fingerprint: about.fingerprint,
        about: JSON.stringify(about),
        data: Buffer.from(data.bytes),
      }),
    )) as [number];
    return id;
  }

  /** The newest first, from those before `before` on. */
  async list(project: number, before: number | null = null, limit = 100): Promise<CaptureList> {
    const rows: (Omit<ListedCapture, 'isReference'> & { reference: number })[] = await this.#db('captures')
      .where({ project })
      .modify((query) => before !== null && query.where('id', '<', before))
      .orderBy('id', 'desc')
      .limit(limit)
      .select('id', 'created', 'reference', {
        recorder: this.#db.raw("json_extract(about, '$.recorder')"),
        condition: this.#db.raw("json_extract(about, '$.condition')"),
        samples: this.#db.raw("json_extract(about, '$.samples')"),
        bytes: this.#db.raw('length(data)'),
      });
    return {
      captures: rows.map(({ reference, ...row }) => ({ ...row, isReference: reference === 1 })),
      kept: await this.kept(project),
    };
  }

  async kept(project: number): Promise<Kept> {
    const row: { count: number; bytes: number | null } | undefined = await this.#db('captures')
      .where({ project })
      .first({ count: this.#db.raw('count(*)'), bytes: this.#db.raw('sum(length(data))') });
    return { count: row?.count ?? 0, bytes: row?.bytes ?? 0, most: MOST_CAPTURES, mostBytes: MOST_CAPTURE_BYTES };
  }

  /** Number of the newest; null without one. */
  async latest(project: number): Promise<number | null> {
    const row: { id: number } | undefined = await this.#db('captures')
      .where({ project })
      .orderBy('id', 'desc')
      .first('id');
    return row?.id ?? null;
  }

  async get(project: number, id: number): Promise<CaptureRow | null> {
    const row = (await this.#db('captures').where({ project, id }).first()) as Row | undefined;
    if (!row) return null;
    const view = row.view === null ? null : waveView.safeParse(JSON.parse(row.view));
    return { id: row.id, created: row.created, capture: captureOf(row), view: view?.success ? view.data : null };
  }

  async reference(project: number): Promise<Capture | null> {
    const row = (await this.#db('captures').where({ project, reference: true }).first()) as Row | undefined;
    return row ? captureOf(row) : null;
  }

  async setReference(project: number, id: number | null): Promise<void> {
    await this.#db.transaction(async (trx) => {
      await trx('captures').where({ project }).update({ reference: false });
      if (id !== null) await trx('captures').where({ project, id }).update({ reference: true });
    });
  }

  async saveView(project: number, id: number, view: WaveView): Promise<void> {
    await this.#db('captures')
      .where({ project, id })
      .update({ view: JSON.stringify(view) });
  }

  async remove(project: number, id: number): Promise<void> {
    await this.#db('captures').where({ project, id }).delete();
  }

  /** Views saved by name, for any capture of the project. */
  async views(project: number): Promise<{ readonly name: string; readonly view: WaveView }[]> {
    const rows = (await this.#db('wave_views').where({ project }).orderBy('name').select('name', 'view')) as {
      name: string;
      view: string;
    }[];
    return rows.flatMap(({ name, view }) => {
      const read = waveView.safeParse(JSON.parse(view));
      return read.success ? [{ name, view: read.data }] : [];
    });
  }

  async saveNamedView(project: number, name: string, view: WaveView | null): Promise<void> {
    if (view === null) await this.#db('wave_views').where({ project, name }).delete();
    else
      await this.#db('wave_views')
        .insert({ project, name, view: JSON.stringify(view) })
        .onConflict(['project', 'name'])
        .merge();
  }
}

function captureOf({ about, data }: Row): Capture {
  const facts = JSON.parse(about) as About;
  return { ...facts, data: { length: facts.samples * facts.sampleBits, bytes: new Uint8Array(data) } };
}
