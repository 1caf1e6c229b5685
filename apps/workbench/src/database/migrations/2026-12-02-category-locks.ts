import type { Knex } from 'knex'

/** A row for each category of a job: whoever changes findings there holds it. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('category_locks', (table) => {
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('category', 40).notNullable()
    table.primary(['job_id', 'category'])
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTable('category_locks')
}
