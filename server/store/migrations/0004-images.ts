import type { Knex } from 'knex';

/** Images of any format: where their data stands, so that a list need not read them. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('images', (table) => {
    table.string('format').notNullable().defaultTo('nbits');
    table.integer('start').notNullable().defaultTo(0);
    table.integer('end').notNullable().defaultTo(0);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('images', (table) => table.dropColumns('format', 'start', 'end'));
}
