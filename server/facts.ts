import type { Knex } from 'knex';
import { z } from 'zod';

export const keepChoice = z.object({
  layout: z.string().max(200).nullable(),
  replaceGolden: z.boolean(),
  rehearseBy: z.enum(['power', 'reconfigure']),
  /** By field name. */
  values: z.record(z.string().max(60), z.string().max(20_000)),
});

export type KeepChoice = z.infer<typeof keepChoice>;

/** What is known of the board beyond the moment: kept across restarts. */
const facts = {
  /** The build that the flash holds, as last written and verified. */
  kept: z.object({ fingerprint: z.string(), chip: z.string(), time: z.string(), layout: z.string().nullable().default(null) }),
  /** What Keep is to write: a layout of the project, or the newest build alone; how the boot is rehearsed; values of this board. */
  keepChoice: keepChoice,
  /** A write that was broken off. */
  brokenWrite: z.object({ time: z.string(), phase: z.string(), message: z.string() }),
  /** What Load is to put where. */
  loadPlan: z.object({ steps: z.array(z.object({ device: z.number().int().nonnegative().nullable(), source: z.discriminatedUnion('kind', [z.object({ kind: z.literal('build') }), z.object({ kind: z.literal('image'), id: z.number().int() })]) })), verify: z.boolean() }),
  /** Recorders that were armed and not read yet, so that they can be gone back to. */
  armed: z.array(z.object({ recorder: z.string(), when: z.string(), keep: z.string(), before: z.number().int(), segments: z.number().int(), sampleRate: z.number() })),
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
