import type { Knex } from 'knex';

/** How the waves of a testbench are looked at: rows, cursors, notes; for whatever run of it is shown. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('testbench_views', (table) => {
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('testbench').notNullable();
    table.text('view').notNullable();
    table.primary(['project', 'testbench']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('testbench_views');
}
