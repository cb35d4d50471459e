import type { Knex } from 'knex';

/**
 * Which build a file would boot, so that Keep can say whether it is what runs. Of files from before it is not known.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('images', (table) => {
    table.string('fingerprint');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('images', (table) => table.dropColumn('fingerprint'));
}
