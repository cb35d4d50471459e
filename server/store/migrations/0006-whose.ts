import type { Knex } from 'knex';

/**
 * Facts belong to a board or to a project. What was remembered before of "the board" cannot be said to be of any one
 * board and goes; what was chosen for Load and Keep goes to the project that was open. Entries of the logbook and of
 * what was loaded tell their project and who did it.
 */
export async function up(knex: Knex): Promise<void> {
  const open = (await knex('projects').orderBy('opened', 'desc').first('id')) as { id: number } | undefined;
  for (const name of ['keepChoice', 'loadPlan']) {
    const row = (await knex('facts').where({ name }).first('value')) as { value: string } | undefined;
    if (row && open)
      await knex('facts').insert({
        name: `${name}#${open.id}`,
        value: JSON.stringify({ chain: null, value: JSON.parse(row.value) }),
      });
  }
  await knex('facts').whereIn('name', ['kept', 'brokenWrite', 'armed', 'keepChoice', 'loadPlan']).delete();
  await knex.schema.alterTable('log', (table) => {
    table.string('project').notNullable().defaultTo('');
    table.string('by').notNullable().defaultTo('');
  });
  await knex.schema.alterTable('loads', (table) => {
    table.string('by').notNullable().defaultTo('');
  });
  await knex.schema.createTable('probe_maps', (table) => {
    table.string('fingerprint').primary();
    table.string('name').notNullable();
    table.text('map').notNullable();
    table.string('added').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('probe_maps');
  await knex.schema.alterTable('loads', (table) => table.dropColumn('by'));
  await knex.schema.alterTable('log', (table) => table.dropColumns('project', 'by'));
}
