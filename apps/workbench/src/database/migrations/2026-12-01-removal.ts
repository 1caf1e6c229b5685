import type { Knex } from 'knex'

/** Sources can be taken out of a job. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('sources', (table) => {
    table.dateTime('removed_at').nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('sources', (table) => {
    table.dropColumn('removed_at')
  })
}
