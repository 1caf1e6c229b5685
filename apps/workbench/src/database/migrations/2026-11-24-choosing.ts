import type { Knex } from 'knex'

/** How a handover is written, views that are kept by name, and indices for lists in other orders than by date. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('handovers', (table) => {
    table.json('options').nullable()
  })
  // Above 0: the brief changed, and findings are still to be settled with it.
  await db.schema.alterTable('jobs', (table) => {
    table.integer('unsettled').unsigned().notNullable().defaultTo(0)
  })
  await db.schema.createTable('saved_views', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('name', 60).notNullable()
    table.string('address', 1500).notNullable()
    table.unique(['job_id', 'name'])
  })
  await db.schema.alterTable('findings', (table) => {
    table.index(['job_id', 'category', 'title', 'id'], 'findings_by_title')
    table.index(['job_id', 'category', 'bytes', 'id'], 'findings_by_size')
    // What is counted by time or by conversation is counted from the index alone.
    table.index(['job_id', 'category', 'happened_at', 'standing'], 'findings_over_time')
    table.index(['job_id', 'category', 'conversation', 'standing', 'happened_at'], 'findings_by_talk')
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('findings', (table) => {
    table.dropIndex([], 'findings_by_title')
    for (const name of ['findings_by_size', 'findings_over_time', 'findings_by_talk']) table.dropIndex([], name)
  })
  await db.schema.dropTableIfExists('saved_views')
  await db.schema.alterTable('jobs', (table) => {
    table.dropColumn('unsettled')
  })
  await db.schema.alterTable('handovers', (table) => {
    table.dropColumn('options')
  })
}
