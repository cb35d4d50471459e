import type { Knex } from 'knex';

/** What a build was made of, packed: whoever computes from a record of it needs exactly that. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('builds', (table) => {
    table.binary('sources').nullable();
  });
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('builds', (table) => table.dropColumn('sources'));
}
