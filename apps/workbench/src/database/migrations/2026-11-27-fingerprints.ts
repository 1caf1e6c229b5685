import type { Knex } from 'knex'

/** How pictures look, in few bits, and the hash of their bytes: by these copies are found. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('fingerprints', (table) => {
    table.bigInteger('sighting_id').unsigned().primary()
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('sha256', 64).nullable()
    // Null: the picture is too plain, or cannot be shown.
    table.binary('coarse', 8).nullable()
    table.binary('fine', 768).nullable()
    table.integer('width').unsigned().nullable()
    table.integer('height').unsigned().nullable()
    table.index(['job_id', 'sighting_id'])
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTableIfExists('fingerprints')
}
