import type { Knex } from 'knex';

export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('projects', (table) => {
    table.string('opened');
  });
  await knex.schema.createTable('vector_runs', (table) => {
    table.increments('id');
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('file').notNullable();
    table.string('created').notNullable();
    table.text('result').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('vector_runs');
  await knex.schema.alterTable('projects', (table) => {
    table.dropColumn('opened');
  });
}
