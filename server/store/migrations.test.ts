// A database of an earlier release is brought up to date with what it holds.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import knex, { type Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { openDatabase } from './database.ts';
import { migrations } from './migrations/index.ts';

let folder: string;
let file: string;
let old: Knex;

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-db-'));
  file = join(folder, 'old.sqlite');
  old = knex({ client: 'better-sqlite3', connection: { filename: file }, useNullAsDefault: true });
  for (let step = 0; step < 5; step++) await old.migrate.up({ migrationSource: migrations });
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

async function opened<T>(look: (database: Knex) => Promise<T>): Promise<T> {
  await old.destroy();
  const database = await openDatabase(file);
  try {
    return await look(database);
  } finally {
    await database.destroy();
  }
}

describe('what was remembered without saying of which board', () => {
  test('goes, for it would be said of any board; what was chosen goes to the project that was open', async () => {
    const time = new Date(0).toISOString();
    await old('projects').insert([
      { name: 'First', created: time, opened: '2026-01-01', plan: '{}' },
      { name: 'Second', created: time, opened: '2026-02-01', plan: '{}' },
    ]);
    await old('facts').insert([
      { name: 'kept', value: JSON.stringify({ fingerprint: 'a'.repeat(32), chip: 'LR32', time }) },
      { name: 'brokenWrite', value: JSON.stringify({ time, phase: 'Erasing', message: 'x' }) },
      {
        name: 'keepChoice',
        value: JSON.stringify({ layout: 'two.layout.json', replaceGolden: false, rehearseBy: 'power', values: {} }),
      },
    ]);
    const names = await opened(async (database) =>
      ((await database('facts').select('name')) as { name: string }[]).map(({ name }) => name),
    );
    expect(names).toEqual(['keepChoice#2']);
  });

  test('with no project at all is dropped without a fault', async () => {
    await old('facts').insert({ name: 'loadPlan', value: '{}' });
    expect(await opened((database) => database('facts').select('name'))).toEqual([]);
  });
});

test('files from before are there; which build they would boot is not known', async () => {
  await old('images').insert({
    name: 'old.nbits',
    bytes: Buffer.from([1, 2]),
    added: new Date(0).toISOString(),
    format: 'nbits',
    start: 0,
    end: 2,
  });
  expect(await opened((database) => database('images').first('name', 'fingerprint'))).toEqual({
    name: 'old.nbits',
    fingerprint: null,
  });
});

test('entries of the logbook and of what was loaded stay, by nobody else and of no named project', async () => {
  await old('log').insert({
    time: new Date(0).toISOString(),
    action: 'Load',
    board: 'lockhouse',
    inputs: '{}',
    outcome: 'done',
    message: 'x',
    milliseconds: 1,
  });
  expect(await opened((database) => database('log').first('action', 'project', 'by'))).toEqual({
    action: 'Load',
    project: '',
    by: '',
  });
});
