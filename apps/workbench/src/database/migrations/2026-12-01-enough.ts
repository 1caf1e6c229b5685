import type { Knex } from 'knex'

/** A read may end by itself when so many matches are there. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('reads', (table) => {
    table.integer('enough').unsigned().nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('reads', (table) => {
    table.dropColumn('enough')
  })
}
