import type { Knex } from 'knex'

/** Devices that are copied into a place again and again. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('regular_copies', (table) => {
    table.increments('id')
    table.integer('place_id').unsigned().notNullable().references('copy_places.id').onDelete('CASCADE')
    table.string('udid', 100).notNullable()
    table.string('device_name', 300).nullable()
    table.string('part', 12).notNullable()
    table.smallint('every_days').unsigned().notNullable()
    table.string('operator', 100).notNullable().defaultTo('')
    table.datetime('created_at', { precision: 3 }).notNullable()
    table.unique(['place_id', 'udid'])
  })
  await db.schema.alterTable('copy_tasks', (table) => {
    table.integer('regular_id').unsigned().nullable().references('regular_copies.id').onDelete('SET NULL')
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('copy_tasks', (table) => {
    table.dropForeign('regular_id')
    table.dropColumn('regular_id')
  })
  await db.schema.dropTable('regular_copies')
}
