import type { Knex } from 'knex'

/** A finding may have a note of the technician's. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('notes', (table) => {
    table.bigInteger('finding_id').unsigned().primary().references('findings.id').onDelete('CASCADE')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('text', 1000).notNullable()
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTable('notes')
}
