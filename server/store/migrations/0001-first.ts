import type { Knex } from 'knex';

export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('projects', (table) => {
    table.increments('id');
    table.string('name').notNullable();
    table.string('created').notNullable();
    table.text('plan').notNullable();
  });
  await knex.schema.createTable('files', (table) => {
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('name').notNullable();
    table.text('text').notNullable();
    table.string('changed').notNullable();
    table.primary(['project', 'name']);
  });
  await knex.schema.createTable('builds', (table) => {
    table.increments('id');
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('fingerprint').notNullable().index();
    table.string('part').notNullable();
    table.string('top').notNullable();
    table.string('created').notNullable();
    table.integer('milliseconds').notNullable();
    table.boolean('good').notNullable();
    table.text('inputs').notNullable();
    table.text('output').notNullable();
    table.binary('bitstream');
  });
  await knex.schema.createTable('captures', (table) => {
    table.increments('id');
    table.integer('project').notNullable().references('projects.id').onDelete('CASCADE');
    table.string('created').notNullable();
    table.string('fingerprint').notNullable();
    table.text('about').notNullable();
    table.binary('data').notNullable();
  });
  await knex.schema.createTable('log', (table) => {
    table.increments('id');
    table.string('time').notNullable();
    table.string('action').notNullable();
    table.string('board').notNullable();
    table.text('inputs').notNullable();
    table.string('outcome').notNullable();
    table.text('message').notNullable();
    table.integer('milliseconds').notNullable();
  });
  await knex.schema.createTable('pods', (table) => {
    table.string('address').primary();
    table.string('token').notNullable();
    table.string('added').notNullable();
  });
  await knex.schema.createTable('facts', (table) => {
    table.string('name').primary();
    table.text('value').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  for (const table of ['facts', 'pods', 'log', 'captures', 'builds', 'files', 'projects'])
    await knex.schema.dropTable(table);
}
