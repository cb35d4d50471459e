import { join } from 'node:path';
import knex, { type Knex } from 'knex';
import { home } from './home.ts';
import { migrations } from './migrations/index.ts';

/** Opens the SQLite file, creating or bringing it up to date. */
export async function openDatabase(file = join(home(), 'nimble.sqlite')): Promise<Knex> {
  const database = knex({
    client: 'better-sqlite3',
    connection: { filename: file },
    useNullAsDefault: true,
    pool: { min: 1, max: 1 },
  });
  await database.raw('PRAGMA journal_mode = WAL');
  await database.raw('PRAGMA foreign_keys = ON');
  await database.migrate.latest({ migrationSource: migrations });
  return database;
}
