import type { Knex } from 'knex';
import { z } from 'zod';

const keepChoice = z.object({
  layout: z.string().max(200).nullable(),
  /** A memory file instead of that; `at` is where it begins, if it carries no addresses. */
  image: z
    .object({ id: z.number().int(), name: z.string().max(200), at: z.number().int().nonnegative() })
    .nullable()
    .default(null),
  replaceGolden: z.boolean(),
  rehearseBy: z.enum(['power', 'reconfigure']),
  /** By field name. */
  values: z.record(z.string().max(60), z.string().max(20_000)),
});

export type KeepChoice = z.infer<typeof keepChoice>;

/** What of a choice is to be another; a value of null is taken away. */
export const keepChange = keepChoice
  .extend({
    image: keepChoice.shape.image.removeDefault(),
    values: z.record(z.string().max(60), z.string().max(20_000).nullable()),
  })
  .partial();

export type KeepChange = z.input<typeof keepChange>;

export function chosenAnew(now: KeepChoice, { values = {}, ...change }: z.infer<typeof keepChange>): KeepChoice {
  const given = Object.entries({ ...now.values, ...values });
  return {
    ...now,
    ...Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined)),
    values: Object.fromEntries(given.flatMap(([name, value]) => (value === null ? [] : [[name, value]]))),
  };
}

/** The newest build alone, as long as nothing else was chosen. */
export const ALONE: KeepChoice = { layout: null, image: null, replaceGolden: false, rehearseBy: 'power', values: {} };

/** What is remembered across restarts: of a board, or of a project. */
const facts = {
  /** The build that the flash holds, as last written and verified. */
  kept: z.object({
    fingerprint: z.string(),
    chip: z.string(),
    time: z.string(),
    layout: z.string().nullable().default(null),
    project: z.number().int().nullable().default(null),
    by: z.string().nullable().default(null),
  }),
  /** The chain that is expected on this board, as a `.chain.json`. */
  chain: z.object({ text: z.string() }),
  /** The last thing done by others that the pod told of: which start of the pod, and its number there. */
  lastDeed: z.object({ pod: z.string(), number: z.number().int() }),
  /**
   * What Keep is to write: a layout of the project, or the newest build alone; how the boot is rehearsed; values of
   * this board.
   */
  keepChoice: keepChoice,
  /** A write that was broken off. */
  brokenWrite: z.object({ time: z.string(), phase: z.string(), message: z.string() }),
  /** What Load is to put where. */
  loadPlan: z.object({
    steps: z.array(
      z.object({
        device: z.number().int().nonnegative().nullable(),
        source: z.discriminatedUnion('kind', [
          z.object({ kind: z.literal('build') }),
          z.object({ kind: z.literal('image'), id: z.number().int() }),
        ]),
      }),
    ),
    verify: z.boolean(),
  }),
  /** Recorders that were armed and not read yet, so that they can be gone back to. */
  armed: z.array(
    z.object({
      recorder: z.string(),
      when: z.string(),
      keep: z.string(),
      before: z.number().int(),
      segments: z.number().int(),
      sampleRate: z.number(),
      standing: z.record(z.string(), z.string()).nullable().default(null),
    }),
  ),
} as const;

/**
 * What each of them is said of. Those of a board are kept with its chain, where that is known: another chain behind the
 * same pod is another board.
 */
const OF: { readonly [K in keyof typeof facts]: 'board' | 'project' } = {
  kept: 'board',
  brokenWrite: 'board',
  chain: 'board',
  lastDeed: 'board',
  armed: 'board',
  keepChoice: 'project',
  loadPlan: 'project',
};

/** Whom a fact is asked of: the board by its key and the chain that answered there, and the open project. */
interface Whom {
  readonly board: string;
  readonly chain: string | null;
  readonly project: number | null;
}

const stored = z.object({ chain: z.string().nullable(), value: z.unknown() });

type Facts = { [K in keyof typeof facts]: z.infer<(typeof facts)[K]> };

export class FactStore {
  readonly #db: Knex;
  readonly #whom: () => Promise<Whom>;

  constructor(db: Knex, whom: () => Promise<Whom>) {
    this.#db = db;
    this.#whom = whom;
  }

  /** Null where it is not known of this board or project. */
  async get<K extends keyof Facts>(name: K): Promise<Facts[K] | null> {
    return this.#read(this.#db, name, await this.#whom());
  }

  async #read<K extends keyof Facts>(db: Knex, name: K, whom: Whom): Promise<Facts[K] | null> {
    const row = (await db('facts')
      .where({ name: keyOf(name, whom) })
      .first('value')) as { value: string } | undefined;
    const held = row ? stored.safeParse(JSON.parse(row.value)) : null;
    if (!held?.success) return null;
    const { chain, value } = held.data;
    if (isOther(chain, whom.chain) && OF[name] === 'board') return null;
    const read = facts[name].safeParse(value);
    return read.success ? (read.data as Facts[K]) : null;
  }

  async set<K extends keyof Facts>(name: K, value: Facts[K] | null): Promise<void> {
    await this.#write(this.#db, name, value, await this.#whom());
  }

  /**
   * Reads it, changes it and keeps that, with nobody else between; `edit` gives null to forget it. Of the open project,
   * or of another one.
   */
  async change<K extends keyof Facts>(
    name: K,
    edit: (now: Facts[K] | null) => Facts[K] | null,
    project: { readonly id: number } | null = null,
  ): Promise<void> {
    const whom = await this.#whom();
    const of = project ? { ...whom, project: project.id } : whom;
    await this.#db.transaction(async (trx) => {
      await this.#write(trx, name, edit(await this.#read(trx, name, of)), of);
    });
  }

  async #write<K extends keyof Facts>(db: Knex, name: K, value: Facts[K] | null, whom: Whom): Promise<void> {
    const key = keyOf(name, whom);
    if (value === null) await db('facts').where({ name: key }).delete();
    else
      await db('facts')
        .insert({
          name: key,
          value: JSON.stringify({ chain: OF[name] === 'board' && name !== 'chain' ? whom.chain : null, value }),
        })
        .onConflict('name')
        .merge();
  }

  /** Of a project that is gone. */
  async forgetProject(project: number): Promise<void> {
    await this.#db('facts').where('name', 'like', `%#${project}`).delete();
  }
}

const keyOf = (name: keyof Facts, { board, project }: Whom): string =>
  OF[name] === 'board' ? `${name}@${board}` : `${name}#${project ?? ''}`;

const isOther = (a: string | null, b: string | null): boolean => a !== null && b !== null && a !== b;
