import { gunzipSync, gzipSync } from 'node:zlib';
import type { Knex } from 'knex';
import { addTo } from './database.ts';
import {
  type BuildOutput,
  type BuildResult,
  type Edit,
  editsBetween,
  type InputDigests,
  judge,
  type Project,
} from '../../core/build/index.ts';

/** A build without its bitstream. */
export type BuildDetails = Omit<BuildResult, 'bitstream'>;

export interface BuildRow {
  readonly id: number;
  readonly created: string;
  readonly milliseconds: number;
  readonly good: boolean;
  readonly inputs: InputDigests;
  readonly details: BuildDetails;
}

/** A build as every station needs it; its messages and signals are fetched where they are shown. */
export interface BuildSummary {
  readonly id: number;
  readonly fingerprint: string;
  readonly part: string;
  readonly top: string;
  readonly created: string;
  readonly milliseconds: number;
  readonly good: boolean;
  readonly errors: number;
  readonly serious: number;
  readonly warnings: number;
  readonly resources: BuildOutput['resources'];
  readonly cores: readonly string[];
}

/** Of a summary, what is not a column of its own. */
type Counted = Pick<BuildSummary, 'errors' | 'serious' | 'warnings' | 'resources' | 'cores'>;

interface Stored {
  id: number;
  created: string;
  milliseconds: number;
  good: number;
  inputs: string;
  output: string;
  bitstream: Buffer | null;
  summary: string | null;
}

const KEPT_BUILDS = 20;

/** Builds as they were made; the newest good one is what Load and Keep use. */
export class Builds {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  /** `made` is what it was made of. */
  async add(
    project: number,
    inputs: InputDigests,
    milliseconds: number,
    result: BuildResult,
    made: Project | null = null,
  ): Promise<number> {
    const { bitstream, ...details } = result;
    const [id] = (await addTo(
      this.#db('builds').insert({
        project,
        fingerprint: result.fingerprint,
        part: result.part,
        top: result.top,
        created: new Date().toISOString(),
        milliseconds,
        // What is taken along is as good as a bitstream: it can be asked for by its fingerprint.
        good: bitstream !== null || (result.taken ?? null) !== null,
        inputs: JSON.stringify(inputs),
        output: JSON.stringify(details),
        summary: JSON.stringify(countedOf(details)),
        bitstream: bitstream === null ? null : Buffer.from(bitstream),
        sources: made === null ? null : gzipSync(JSON.stringify(made)),
      }),
    )) as [number];
    const old = (await this.#db('builds')
      .where({ project })
      .orderBy('id', 'desc')
      .offset(KEPT_BUILDS)
      .select('id')) as { id: number }[];
    await this.#db('builds')
      .whereIn(
        'id',
        old.map((row) => row.id),
      )
      .delete();
    return id;
  }

  async latest(project: number): Promise<BuildRow | null> {
    return rowOf(await this.#db('builds').where({ project }).orderBy('id', 'desc').first());
  }

  async latestGood(project: number): Promise<BuildRow | null> {
    return rowOf(await this.#db('builds').where({ project, good: true }).orderBy('id', 'desc').first());
  }

  async byFingerprint(project: number, fingerprint: string): Promise<BuildRow | null> {
    return rowOf(await this.#db('builds').where({ project, fingerprint, good: true }).orderBy('id', 'desc').first());
  }

  async get(project: number, id: number): Promise<BuildRow | null> {
    return rowOf(await this.#db('builds').where({ project, id }).first());
  }

  /** The newest build without what it put out, or the newest that can run. */
  async summary(project: number, good = false): Promise<BuildSummary | null> {
    const row: Omit<Stored, 'inputs' | 'output' | 'bitstream'> & { fingerprint: string; part: string; top: string } =
      await this.#db('builds')
        .where({ project, ...(good ? { good: true } : {}) })
        .orderBy('id', 'desc')
        .first('id', 'fingerprint', 'part', 'top', 'created', 'milliseconds', 'good', 'summary');
    if (!row) return null;
    const { summary, good: isGood, ...rest } = row;
    const counted: Counted = JSON.parse(summary ?? (await this.#summarised(row.id)));
    return { ...rest, good: isGood === 1, ...counted };
  }

  /** What the newest build was made from. */
  async head(project: number): Promise<Pick<BuildRow, 'inputs'> | null> {
    const row: Pick<Stored, 'inputs'> | undefined = await this.#db('builds')
      .where({ project })
      .orderBy('id', 'desc')
      .first('inputs');
    return row ? { inputs: JSON.parse(row.inputs) } : null;
  }

  /** Whether a build with a bitstream has this fingerprint. */
  async has(project: number, fingerprint: string): Promise<boolean> {
    return (await this.#db('builds').where({ project, fingerprint, good: true }).first('id')) !== undefined;
  }

  /** Of a build from before summaries were kept. */
  async #summarised(id: number): Promise<string> {
    const row: Pick<Stored, 'output'> | undefined = await this.#db('builds').where({ id }).first('output');
    const details: BuildDetails = JSON.parse(row?.output ?? '{}');
    const summary = JSON.stringify(countedOf(details));
    await this.#db('builds').where({ id }).update({ summary });
    return summary;
  }

  /** All that are kept, newest first. */
  async list(project: number): Promise<BuildRow[]> {
    return ((await this.#db('builds').where({ project }).orderBy('id', 'desc')) as Stored[]).flatMap(
      (row) => rowOf(row) ?? [],
    );
  }

  /** Looks again which messages of the newest build are accepted. */
  async rejudge(project: number, { file, files }: Project): Promise<void> {
    const row = await this.latest(project);
    if (!row) return;
    const messages = judge(row.details.messages, file.accepted, files);
    await this.#db('builds')
      .where({ id: row.id })
      .update({
        output: JSON.stringify({ ...row.details, messages }),
        summary: JSON.stringify(countedOf({ ...row.details, messages })),
      });
  }

  /** What the build with a fingerprint was made of; null where that was not kept. */
  async sources(project: number, fingerprint: string): Promise<Project | null> {
    const row: { sources: Buffer | null } | undefined = await this.#db('builds')
      .where({ project, fingerprint })
      .whereNotNull('sources')
      .orderBy('id', 'desc')
      .first('sources');
    if (!row?.sources) return null;
    const made: Project = JSON.parse(gunzipSync(row.sources).toString('utf8'));
    return made;
  }

  async bitstream(id: number): Promise<Uint8Array | null> {
    const row = (await this.#db('builds').where({ id }).first('bitstream')) as Pick<Stored, 'bitstream'> | undefined;
    return row?.bitstream ? new Uint8Array(row.bitstream) : null;
  }
}

/** Builds of older releases do not tell what drives a signal. */
const UNTOLD = { removed: null, driver: { kind: 'untold' } } as const;

function rowOf(row: Stored | undefined): BuildRow | null {
  if (!row) return null;
  const details = JSON.parse(row.output) as BuildDetails;
  return {
    id: row.id,
    created: row.created,
    milliseconds: row.milliseconds,
    good: row.good === 1,
    inputs: JSON.parse(row.inputs) as InputDigests,
    details: { ...details, signals: details.signals.map((signal) => ({ ...UNTOLD, ...signal })) },
  };
}

function countedOf({ messages, resources, probes }: BuildDetails): Counted {
  const count = (severity: string) => messages.filter((m) => m.severity === severity).length;
  return {
    resources,
    errors: count('error'),
    serious: messages.filter((m) => m.severity === 'serious' && m.accepted === null).length,
    warnings: count('warning'),
    cores: probes?.cores.map((core) => `${core.kind} ${core.name}`) ?? [],
  };
}

/** What was edited since a build. */
export const staleBecause = (build: Pick<BuildRow, 'inputs'> | null, now: InputDigests): Edit[] =>
  build ? editsBetween(build.inputs, now) : [];
