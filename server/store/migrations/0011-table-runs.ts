import type { Knex } from 'knex';

/** Tables of vectors that were run on hardware. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('table_runs', (table) => {
    table.increments('id');
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('file').notNullable();
    table.string('created').notNullable();
    table.text('result').notNullable();
    table.index(['project']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('table_runs');
}
