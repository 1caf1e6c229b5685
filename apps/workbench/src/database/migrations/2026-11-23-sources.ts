import type { Knex } from 'knex'

/** Sources and the reads over them, step by step. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('sources', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('kind', 30).notNullable()
    table.string('path', 1000).notNullable()
    table.string('path_hash', 64).notNullable()
    table.json('info').notNullable()
    table.datetime('taken_at', { precision: 3 }).nullable()
    table.bigInteger('bytes').notNullable().defaultTo(0)
    table.integer('files').notNullable().defaultTo(0)
    table.datetime('added_at', { precision: 3 }).notNullable()
    table.unique(['job_id', 'path_hash'])
  })
  await db.schema.createTable('reads', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.integer('source_id').unsigned().notNullable().references('sources.id').onDelete('CASCADE')
    table.string('state', 12).notNullable().index()
    table.string('claimed_by', 100).nullable()
    table.datetime('heartbeat_at', { precision: 3 }).nullable()
    table.datetime('queued_at', { precision: 3 }).notNullable()
    table.datetime('started_at', { precision: 3 }).nullable()
    table.datetime('ended_at', { precision: 3 }).nullable()
    table.text('error').nullable()
    table.json('warnings').notNullable()
  })
  await db.schema.createTable('read_steps', (table) => {
    table.increments('id')
    table.integer('read_id').unsigned().notNullable().references('reads.id').onDelete('CASCADE')
    table.integer('position').notNullable()
    table.string('category', 24).notNullable()
    table.string('pass', 10).notNullable()
    table.integer('done').notNullable().defaultTo(0)
    table.boolean('finished').notNullable().defaultTo(false)
    table.unique(['read_id', 'position'])
  })
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['read_steps', 'reads', 'sources']) await db.schema.dropTableIfExists(table)
}
