import type { Knex } from 'knex';

interface PodRow {
  readonly address: string;
  readonly token: string;
  readonly added: string;
}

/** Pods that were connected once; their tokens stay here. */
export class Pods {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  list(): Promise<Pick<PodRow, 'address' | 'added'>[]> {
    return this.#db<PodRow>('pods').orderBy('added').select('address', 'added');
  }

  async newest(): Promise<PodRow | null> {
    return (await this.#db<PodRow>('pods').orderBy('added', 'desc').first()) ?? null;
  }

  /** Null for a pod that was never connected. */
  async tokenOf(address: string): Promise<string | null> {
    return (await this.#db<PodRow>('pods').where({ address }).first('token'))?.token ?? null;
  }

  async remember(address: string, token: string): Promise<void> {
    const row: PodRow = { address, token, added: new Date().toISOString() };
    await this.#db<PodRow>('pods').insert(row).onConflict('address').merge();
  }

  async forget(address: string): Promise<boolean> {
    return (await this.#db<PodRow>('pods').where({ address }).delete()) === 1;
  }
}
