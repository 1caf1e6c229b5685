import type { Knex } from 'knex'

/** What merging asks of sightings is answered from their indices: their rows are long, and there are a million of them. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('sightings', (table) => {
    table.index(['job_id', 'category', 'likeness', 'strong'], 'sightings_by_likeness')
    table.index(['finding_id', 'source_id', 'condition'], 'sightings_of_finding')
  })
  await db.schema.alterTable('sightings', (table) => {
    table.dropIndex(['job_id', 'category', 'likeness'])
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.alterTable('sightings', (table) => {
    table.index(['job_id', 'category', 'likeness'])
    table.index(['finding_id'], 'sightings_finding_id_foreign')
  })
  await db.schema.alterTable('sightings', (table) => {
    table.dropIndex([], 'sightings_by_likeness')
    table.dropIndex([], 'sightings_of_finding')
  })
}
