import type { Knex } from 'knex';

export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('places', (table) => {
    table.string('board').notNullable();
    table.integer('index').notNullable();
    table.integer('idcode');
    table.string('part');
    table.integer('ir_length');
    table.primary(['board', 'index']);
  });
  await knex.schema.createTable('descriptions', (table) => {
    table.string('name').primary();
    table.text('text').notNullable();
    table.string('added').notNullable();
  });
  await knex.schema.createTable('loads', (table) => {
    table.increments('id');
    table.string('time').notNullable();
    table.string('board').notNullable();
    table.integer('device').notNullable();
    table.string('part').notNullable();
    table.string('fingerprint').notNullable();
    table.string('source').notNullable();
    table.string('outcome').notNullable();
    table.boolean('verified');
  });
  await knex.schema.createTable('images', (table) => {
    table.increments('id');
    table.string('name').notNullable();
    table.string('added').notNullable();
    table.binary('bytes').notNullable();
  });
  await knex.schema.createTable('svf_files', (table) => {
    table.increments('id');
    table.string('name').notNullable();
    table.integer('bytes').notNullable();
    table.string('added').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  for (const table of ['svf_files', 'images', 'loads', 'descriptions', 'places']) await knex.schema.dropTable(table);
}
