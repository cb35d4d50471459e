import type { Knex } from 'knex';
import { z } from 'zod';

/** What is known of the board beyond the moment: kept across restarts. */
const facts = {
  /** The build that the flash holds, as last written and verified. */
  kept: z.object({ fingerprint: z.string(), chip: z.string(), time: z.string() }),
  /** What Load is to put where. */
  loadPlan: z.object({ steps: z.array(z.object({ device: z.number().int().nonnegative().nullable(), source: z.discriminatedUnion('kind', [z.object({ kind: z.literal('build') }), z.object({ kind: z.literal('image'), id: z.number().int() })]) })), verify: z.boolean() }),
} as const;

type Facts = { [K in keyof typeof facts]: z.infer<(typeof facts)[K]> };

export class FactStore {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  async get<K extends keyof Facts>(name: K): Promise<Facts[K] | null> {
    const row = (await this.#db('facts').where({ name }).first('value')) as { value: string } | undefined;
    const read = row ? facts[name].safeParse(JSON.parse(row.value)) : null;
    return read?.success ? (read.data as Facts[K]) : null;
  }

  async set<K extends keyof Facts>(name: K, value: Facts[K] | null): Promise<void> {
    if (value === null) await this.#db('facts').where({ name }).delete();
    else await this.#db('facts').insert({ name, value: JSON.stringify(value) }).onConflict('name').merge();
  }
}
