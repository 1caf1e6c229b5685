import type { Knex } from 'knex'

/** How far a handover is in bytes, beside items: a film takes longer than a message. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('handovers', (table) => {
    table.bigInteger('done_bytes').unsigned().notNullable().defaultTo(0)
    table.bigInteger('total_bytes').unsigned().notNullable().defaultTo(0)
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('handovers', (table) => table.dropColumns('done_bytes', 'total_bytes'))
}
