import type { Knex } from 'knex'

/** Jobs, their log, and the settings of the workbench. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('jobs', (table) => {
    table.increments('id')
    table.string('number', 20).notNullable().unique()
    table.string('owner', 200).notNullable()
    table.json('brief').notNullable()
    table.datetime('created_at', { precision: 3 }).notNullable()
  })
  await db.schema.createTable('log', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.datetime('at', { precision: 3 }).notNullable()
    table.string('action', 60).notNullable()
    table.text('detail').notNullable()
  })
  await db.schema.createTable('settings', (table) => {
    table.string('name', 60).primary()
    table.json('value').notNullable()
  })
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['settings', 'log', 'jobs']) await db.schema.dropTableIfExists(table)
}
