import { chmodSync, closeSync, existsSync, openSync } from 'node:fs';
import { join } from 'node:path';
import knex, { type Knex } from 'knex';
import { ProblemError } from '../../core/result.ts';
import { home } from './home.ts';
import { migrations } from './migrations/index.ts';
import { problem } from './problems.ts';

/** Opens the SQLite file, creating or bringing it up to date. */
export async function openDatabase(file = join(home(), 'nimble.sqlite')): Promise<Knex> {
  keepFromOthers(file);
  const database = knex({
    client: 'better-sqlite3',
    connection: { filename: file },
    useNullAsDefault: true,
    pool: { min: 1, max: 1 },
    // What could not be written, such as a bitstream, is no part of the message that says so.
    compileSqlOnError: false,
  });
  await database.raw('PRAGMA journal_mode = WAL');
  // What was answered as done outlives a power cut: every commit waits for the disk (SQLite, PRAGMA synchronous).
  await database.raw('PRAGMA synchronous = FULL');
  await database.raw('PRAGMA foreign_keys = ON');
  await database.migrate.latest({ migrationSource: migrations });
  return database;
}

/** Adds to a project; one that was deleted meanwhile takes nothing any more. */
export async function addTo<T>(work: PromiseLike<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'SQLITE_CONSTRAINT_FOREIGNKEY')
      throw new ProblemError(problem('no-project'));
    throw error;
  }
}

/**
 * Sources, captures and the tokens of pods are their owner's alone. SQLite gives its other files (-wal, -shm) the
 * rights of the first.
 */
function keepFromOthers(file: string): void {
  closeSync(openSync(file, 'a', 0o600));
  for (const one of [file, `${file}-wal`, `${file}-shm`]) if (existsSync(one)) chmodSync(one, 0o600);
}
