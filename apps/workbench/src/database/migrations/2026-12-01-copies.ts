import type { Knex } from 'knex'

/** Places of safe copies that this installation knows, and what is done in them. The copies say for themselves what they are. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('copy_places', (table) => {
    table.increments('id')
    table.text('path').notNullable()
    table.specificType('path_hash', 'char(64) character set ascii collate ascii_bin').notNullable().unique()
  })
  await db.schema.createTable('copy_tasks', (table) => {
    table.increments('id')
    table.integer('place_id').unsigned().notNullable().references('copy_places.id').onDelete('CASCADE')
    // A job that is purged takes what names its sources with it.
    table.integer('job_id').unsigned().nullable().references('jobs.id').onDelete('CASCADE')
    table.string('about', 300).nullable()
    table.json('work').notNullable()
    table.string('state', 12).notNullable().index()
    table.string('claimed_by', 190).nullable()
    table.datetime('heartbeat_at', { precision: 3 }).nullable()
    table.string('operator', 100).notNullable().defaultTo('')
    table.integer('done').unsigned().notNullable().defaultTo(0)
    table.integer('total').unsigned().notNullable().defaultTo(0)
    table.json('result').nullable()
    table.text('error').nullable()
    table.datetime('created_at', { precision: 3 }).notNullable()
    table.datetime('ended_at', { precision: 3 }).nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTable('copy_tasks')
  await db.schema.dropTable('copy_places')
}
