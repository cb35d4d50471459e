import type { Knex } from 'knex';

/** Runs of testbenches: what they printed, how they ended, and the dump of all signals. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('simulations', (table) => {
    table.increments('id');
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('testbench').notNullable();
    table.string('created').notNullable();
    table.text('result').notNullable();
    table.binary('dump');
    table.index(['project', 'id']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('simulations');
}
