import type { Knex } from 'knex'

/**
 * How far a read is with fetching from elsewhere; when devices last trusted this computer;
 * what went back to them; when the content of a job was removed.
 */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('reads', (table) => {
    table.json('fetching').nullable()
  })
  await db.schema.alterTable('jobs', (table) => {
    table.datetime('purge_began_at', { precision: 3 }).nullable()
    table.datetime('purged_at', { precision: 3 }).nullable()
  })
  await db.schema.createTable('bay_devices', (table) => {
    table.string('udid', 64).primary()
    table.datetime('trusted_at', { precision: 3 }).notNullable()
  })
  await db.schema.createTable('returns', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('udid', 64).notNullable()
    table.string('device_name', 200).notNullable()
    table.string('kind', 24).notNullable()
    table.json('ids').notNullable()
    table.json('titles').notNullable()
    table.datetime('returned_at', { precision: 3 }).notNullable()
    table.datetime('undone_at', { precision: 3 }).nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['returns', 'bay_devices']) await db.schema.dropTableIfExists(table)
  await db.schema.alterTable('jobs', (table) => {
    for (const column of ['purge_began_at', 'purged_at']) table.dropColumn(column)
  })
  await db.schema.alterTable('reads', (table) => {
    table.dropColumn('fetching')
  })
}
