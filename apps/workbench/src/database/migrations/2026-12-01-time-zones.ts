import type { Knex } from 'knex'

/** Jobs have a time zone: what a device of theirs said. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('jobs', (table) => {
    table.string('device_time_zone', 64).nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('jobs', (table) => {
    table.dropColumn('device_time_zone')
  })
}
