import type { Knex } from 'knex'

/** What rules of the bay did with devices that were plugged in. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('bay_events', (table) => {
    table.increments('id')
    table.string('udid', 100).notNullable()
    table.string('name', 300).nullable()
    table.string('act', 12).notNullable()
    table.text('said').notNullable()
    // A job that is purged takes what names its devices with it.
    table.integer('job_id').unsigned().nullable().references('jobs.id').onDelete('CASCADE')
    table.integer('read_id').unsigned().nullable()
    table.datetime('came_at', { precision: 3 }).notNullable()
    table.datetime('gone_at', { precision: 3 }).nullable().index()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTable('bay_events')
}
