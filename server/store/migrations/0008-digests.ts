import type { Knex } from 'knex';

/**
 * What is looked at all the time is kept beside what it was made from: the digest of a file, what pages show of a
 * build. Where it is missing, from before, it is made once when it is first asked for.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('files', (table) => {
    table.string('digest');
  });
  await knex.schema.alterTable('builds', (table) => {
    table.text('summary');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('files', (table) => table.dropColumn('digest'));
  await knex.schema.alterTable('builds', (table) => table.dropColumn('summary'));
}
