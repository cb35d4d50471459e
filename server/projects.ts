import type { Knex } from 'knex';
import { fingerprintOf, type Project, readProject } from '../core/build/index.ts';
import { emptyPlan, type ProbePlan, probePlan } from '../core/probes/index.ts';
import type { Result } from '../core/result.ts';

export interface FileRow {
  readonly name: string;
  readonly text: string;
  readonly changed: string;
}

/** Digest of each thing a build is made from, so that a later look can name what changed. */
export type InputDigests = Readonly<Record<string, string>>;

export const PLAN_INPUT = 'probe plan';

/** Projects and their files. */
export class Projects {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  /** The project being worked on: the first one. */
  async current(): Promise<{ readonly id: number; readonly name: string } | null> {
    return (await this.#db('projects').orderBy('id').first('id', 'name')) ?? null;
  }

  async create(name: string, files: readonly { readonly name: string; readonly text: string }[]): Promise<number> {
    const now = new Date().toISOString();
    return this.#db.transaction(async (trx) => {
      const [id] = (await trx('projects').insert({ name, created: now, plan: JSON.stringify(emptyPlan) })) as [number];
      for (const file of files) await trx('files').insert({ project: id, name: file.name, text: file.text, changed: now });
      return id;
    });
  }

  files(project: number): Promise<FileRow[]> {
    return this.#db('files').where({ project }).orderBy('name').select('name', 'text', 'changed');
  }

  /** False when there is no such file; files are not created by saving. */
  async save(project: number, name: string, text: string): Promise<boolean> {
    return (await this.#db('files').where({ project, name }).update({ text, changed: new Date().toISOString() })) === 1;
  }

  async plan(project: number): Promise<ProbePlan> {
    const row = (await this.#db('projects').where({ id: project }).first('plan')) as { plan: string } | undefined;
    const read = probePlan.safeParse(JSON.parse(row?.plan ?? '{}'));
    return read.success ? read.data : emptyPlan;
  }

  async savePlan(project: number, plan: ProbePlan): Promise<void> {
    await this.#db('projects').where({ id: project }).update({ plan: JSON.stringify(plan) });
  }

  async open(project: number): Promise<Result<Project>> {
    return readProject(await this.files(project));
  }

  async digests(project: number): Promise<InputDigests> {
    const files = await this.files(project);
    const plan = await this.plan(project);
    return Object.fromEntries([...files.map(({ name, text }) => [name, fingerprintOf(text)]), [PLAN_INPUT, fingerprintOf(plan)]]);
  }
}

/** Names of what differs between two sets of inputs. */
export function changedInputs(then: InputDigests, now: InputDigests): string[] {
  return [...new Set([...Object.keys(then), ...Object.keys(now)])].filter((name) => then[name] !== now[name]).sort();
}
