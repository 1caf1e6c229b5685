import type { Knex } from 'knex'

/**
 * The tray without a second index: half a million findings are put in at once, and each index is half of the work. What
 * removes findings takes them out of the tray itself.
 */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('tray', (table) => {
    table.dropForeign('finding_id')
  })
  await db.schema.alterTable('tray', (table) => {
    table.dropIndex([], 'tray_finding_id_foreign')
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('tray', (table) => {
    table.foreign('finding_id').references('findings.id').onDelete('CASCADE')
  })
}
