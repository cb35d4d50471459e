import type { Knex } from 'knex';
import {
  digestOf,
  inputDigests,
  type InputDigests,
  nameTrouble,
  type Project,
  PROJECT_FILE,
  type ProjectFile,
  readProject,
  type TextFile,
  writeProjectFile,
} from '../../core/build/index.ts';
import { activePlan, type PlanShelf, type ProbePlan, readShelf } from '../../core/probes/index.ts';
import { fail, ok, type Result, problem as plainProblem } from '../../core/result.ts';
import { problem } from './problems.ts';

interface FileRow extends TextFile {
  readonly changed: string;
  /** Digest of the text: who saves the file names the one that was read. */
  readonly version: string;
}

interface ProjectRow {
  readonly id: number;
  readonly name: string;
  readonly created: string;
  readonly opened: string | null;
}

const MOST_FILES = 2000;

/** Projects and their files. */
export class Projects {
  readonly #db: Knex;

  constructor(db: Knex) {
    this.#db = db;
  }

  /** The project being worked on: the one opened last. */
  async current(): Promise<{ readonly id: number; readonly name: string } | null> {
    return (await this.#db('projects').orderByRaw('opened is null, opened desc, id').first('id', 'name')) ?? null;
  }

  /** Null where it is gone. */
  async row(id: number): Promise<{ readonly id: number; readonly name: string } | null> {
    return (await this.#db('projects').where({ id }).first('id', 'name')) ?? null;
  }

  list(): Promise<ProjectRow[]> {
    return this.#db('projects').orderBy('name').select('id', 'name', 'created', 'opened');
  }

  /** Makes a project and opens it. */
  async create(name: string, files: readonly TextFile[], shelf: PlanShelf = []): Promise<number> {
    const now = new Date().toISOString();
    return this.#db.transaction(async (trx) => {
      const [id] = (await trx('projects').insert({ name, created: now, opened: now, plan: JSON.stringify(shelf) })) as [
        number,
      ];
      for (const file of files) await trx('files').insert({ project: id, ...stored(file, now) });
      return id;
    });
  }

  async makeCurrent(id: number): Promise<boolean> {
    return (await this.#db('projects').where({ id }).update({ opened: new Date().toISOString() })) === 1;
  }

  async duplicate(id: number, name: string): Promise<number | null> {
    const row = (await this.#db('projects').where({ id }).first('id')) as { id: number } | undefined;
    return row ? this.create(name, renamed(await this.files(id), name), await this.shelf(id)) : null;
  }

  async remove(id: number): Promise<boolean> {
    return (await this.#db('projects').where({ id }).delete()) === 1;
  }

  files(project: number): Promise<FileRow[]> {
    return this.filesLike(project, '');
  }

  /** Versions of the files by name; no text is read but of files that an older release saved. */
  async versions(project: number): Promise<Readonly<Record<string, string>>> {
    return Object.fromEntries((await this.#digests(project)).map(({ name, digest }) => [name, digest]));
  }

  /** Work with nobody else between: all of it is kept, or, where it throws, none. */
  #atOnce<T>(work: (own: Projects) => Promise<T>): Promise<T> {
    return this.#db.transaction((trx) => work(new Projects(trx)));
  }

  /**
   * Saves a file that is there and gives its version. `read` is the version that was changed: where the file is another
   * meanwhile, nothing is saved; null saves over whatever is there.
   */
  save(project: number, name: string, text: string, read: string | null = null): Promise<Result<string>> {
    return this.#atOnce((own) => own.#save(project, name, text, read));
  }

  async #save(project: number, name: string, text: string, read: string | null): Promise<Result<string>> {
    const digest = digestOf(text);
    const digests = await this.#digests(project);
    const saved = await this.#db('files')
      .where({ project, name, ...(read === null ? {} : { digest: read }) })
      .update({ text, digest, changed: new Date().toISOString() });
    // An answer that was lost on its way is asked for again: what is there already is saved.
    if (saved === 0 && digests.some((file) => file.name === name && file.digest === digest)) return ok(digest);
    if (saved === 1) {
      if (name === PROJECT_FILE) await this.#takeName(project);
      return ok(digest);
    }
    return fail(
      digests.some((file) => file.name === name) ? problem('file-changed', { name }) : problem('no-file', { name }),
    );
  }

  /** Puts files in, new ones or over those of the same name; all of them or none. */
  put(project: number, files: readonly TextFile[]): Promise<Result<null>> {
    return this.#atOnce((own) => own.#put(project, files));
  }

  /** Changes files as they stand, with nobody else between; none where `change` refuses. */
  edit(project: number, change: (files: readonly FileRow[]) => Result<readonly TextFile[]>): Promise<Result<null>> {
    return this.#atOnce(async (own) => {
      const files = change(await own.files(project));
      return files.ok ? own.#put(project, files.value) : files;
    });
  }

  async #put(project: number, files: readonly TextFile[]): Promise<Result<null>> {
    for (const { name } of files) {
      const trouble = nameTrouble(name);
      if (trouble) return fail(plainProblem('file-name', trouble, 'Rename the file.'));
    }
    const now = new Date().toISOString();
    const known: { name: string }[] = await this.#db('files').where({ project }).select('name');
    if (new Set([...known, ...files].map(({ name }) => name)).size > MOST_FILES)
      return fail(problem('too-many', { mostFiles: MOST_FILES }));
    for (const file of files)
      await this.#db('files')
        .insert({ project, ...stored(file, now) })
        .onConflict(['project', 'name'])
        .merge();
    if (files.some((file) => file.name === PROJECT_FILE)) await this.#takeName(project);
    return ok(null);
  }

  async removeFile(project: number, name: string): Promise<boolean> {
    return name !== PROJECT_FILE && (await this.#db('files').where({ project, name }).delete()) === 1;
  }

  async renameFile(project: number, from: string, to: string): Promise<Result<null>> {
    const trouble = nameTrouble(to);
    if (trouble) return fail(plainProblem('file-name', trouble, 'Choose another name.'));
    if (from === PROJECT_FILE) return fail(problem('file-name (settings)', { projectFile: PROJECT_FILE }));
    return this.#db.transaction(async (trx) => {
      if (await trx('files').where({ project, name: to }).first('name'))
        return fail(problem('file-name (taken)', { to }));
      const done = await trx('files')
        .where({ project, name: from })
        .update({ name: to, changed: new Date().toISOString() });
      return done === 1 ? ok(null) : fail(problem('no-file (renameFile)', { from }));
    });
  }

  /** Changes what nimble.json says, with nobody else between; an unreadable one is left alone. */
  change(project: number, edit: (file: ProjectFile) => ProjectFile): Promise<Result<null>> {
    return this.#atOnce(async (own) => {
      const read = await own.open(project);
      if (!read.ok) return read;
      const saved = await own.#save(project, PROJECT_FILE, writeProjectFile(edit(read.value.file)), null);
      return saved.ok ? ok(null) : saved;
    });
  }

  /** What goes into the next build. */
  async plan(project: number): Promise<ProbePlan> {
    return activePlan(await this.shelf(project));
  }

  /** All plans, those that rest among them. */
  async shelf(project: number): Promise<PlanShelf> {
    const row = (await this.#db('projects').where({ id: project }).first('plan')) as { plan: string } | undefined;
    return readShelf(JSON.parse(row?.plan ?? '{}'));
  }

  async saveShelf(project: number, shelf: PlanShelf): Promise<void> {
    await this.#db('projects')
      .where({ id: project })
      .update({ plan: JSON.stringify(shelf) });
  }

  async open(project: number): Promise<Result<Project>> {
    return readProject(await this.files(project));
  }

  /** Digests of everything the next build is made from; no file is read but nimble.json. */
  async digests(project: number): Promise<InputDigests> {
    return inputDigests(await this.text(project, PROJECT_FILE), await this.#digests(project), await this.plan(project));
  }

  /** Null where there is no such file. */
  async text(project: number, name: string): Promise<string | null> {
    const row: { text: string } | undefined = await this.#db('files').where({ project, name }).first('text');
    return row?.text ?? null;
  }

  /** Files whose names end like this, by name. */
  async filesLike(project: number, end: string): Promise<FileRow[]> {
    const rows: (Omit<FileRow, 'version'> & { digest: string | null })[] = await this.#db('files')
      .where({ project })
      .whereLike('name', `%${end}`)
      .orderBy('name')
      .select('name', 'text', 'changed', 'digest');
    return rows.map(({ digest, ...file }) => ({ ...file, version: digest ?? digestOf(file.text) }));
  }

  async #digests(project: number): Promise<{ readonly name: string; readonly digest: string }[]> {
    const rows: { name: string; digest: string | null }[] = await this.#db('files')
      .where({ project })
      .select('name', 'digest');
    return Promise.all(
      rows.map(async ({ name, digest }) => ({ name, digest: digest ?? (await this.#digest(project, name)) })),
    );
  }

  /** Of a file that was saved by an older release. */
  async #digest(project: number, name: string): Promise<string> {
    const digest = digestOf((await this.text(project, name)) ?? '');
    await this.#db('files').where({ project, name }).update({ digest });
    return digest;
  }

  /** The list of projects shows the name that nimble.json gives. */
  async #takeName(project: number): Promise<void> {
    const read = await this.open(project);
    if (read.ok) await this.#db('projects').where({ id: project }).update({ name: read.value.file.name });
  }
}

const stored = ({ name, text }: TextFile, changed: string) => ({ name, text, digest: digestOf(text), changed });

function renamed(files: readonly TextFile[], name: string): TextFile[] {
  const read = readProject(files);
  return files.map((file) =>
    file.name === PROJECT_FILE && read.ok
      ? { name: file.name, text: writeProjectFile({ ...read.value.file, name }) }
      : { name: file.name, text: file.text },
  );
}
