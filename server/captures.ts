import type { Knex } from 'knex';
import type { Capture } from '../core/wave/index.ts';

export interface CaptureRow {
  readonly id: number;
  readonly created: string;
  readonly capture: Capture;
}

type About = Omit<Capture, 'data'>;

/** Captures, kept with the build and the condition they came from. */
export class Captures {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async add(project: number, { data, ...about }: Capture): Promise<number> {
    const [id] = (await this.#db('captures').insert({ project, created: new Date().toISOString(), fingerprint: about.fingerprint, about: JSON.stringify(about), data: Buffer.from(data.bytes) })) as [number];
    return id;
  }

  async list(project: number): Promise<{ id: number; created: string; about: About }[]> {
    const rows = (await this.#db('captures').where({ project }).orderBy('id', 'desc').limit(50).select('id', 'created', 'about')) as { id: number; created: string; about: string }[];
    return rows.map((row) => ({ ...row, about: JSON.parse(row.about) as About }));
  }

  async get(project: number, id: number): Promise<CaptureRow | null> {
    const row = (await this.#db('captures').where({ project, id }).first()) as { id: number; created: string; about: string; data: Buffer } | undefined;
    if (!row) return null;
    const about = JSON.parse(row.about) as About;
    return { id: row.id, created: row.created, capture: { ...about, data: { length: about.samples * about.sampleBits, bytes: new Uint8Array(row.data) } } };
  }
}
