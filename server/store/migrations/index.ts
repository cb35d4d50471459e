import type { Knex } from 'knex';
import * as first from './0001-first.ts';
import * as second from './0002-projects.ts';
import * as third from './0003-bench.ts';
import * as fourth from './0004-images.ts';
import * as fifth from './0005-waves.ts';
import * as sixth from './0006-whose.ts';
import * as seventh from './0007-image-prints.ts';
import * as eighth from './0008-digests.ts';
import * as ninth from './0009-simulations.ts';
import * as tenth from './0010-testbench-views.ts';
import * as eleventh from './0011-table-runs.ts';
import * as twelfth from './0012-build-sources.ts';

const all: readonly { readonly name: string; readonly migration: Knex.Migration }[] = [
  { name: '0001-first', migration: first },
  { name: '0002-projects', migration: second },
  { name: '0003-bench', migration: third },
  { name: '0004-images', migration: fourth },
  { name: '0005-waves', migration: fifth },
  { name: '0006-whose', migration: sixth },
  { name: '0007-image-prints', migration: seventh },
  { name: '0008-digests', migration: eighth },
  { name: '0009-simulations', migration: ninth },
  { name: '0010-testbench-views', migration: tenth },
  { name: '0011-table-runs', migration: eleventh },
  { name: '0012-build-sources', migration: twelfth },
];

/** Migrations as code of the bundle, so that no path on disk matters. */
export const migrations: Knex.MigrationSource<(typeof all)[number]> = {
  getMigrations: async () => [...all],
  getMigrationName: ({ name }) => name,
  getMigration: async ({ migration }) => migration,
};
