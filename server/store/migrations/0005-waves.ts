import type { Knex } from 'knex';

/** How captures were looked at, which one others are compared with, and views by name. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('captures', (table) => {
    table.text('view');
    table.boolean('reference').notNullable().defaultTo(false);
  });
  await knex.schema.createTable('wave_views', (table) => {
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('name').notNullable();
    table.text('view').notNullable();
    table.primary(['project', 'name']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('wave_views');
  await knex.schema.alterTable('captures', (table) => table.dropColumns('view', 'reference'));
}
