import type { Knex } from 'knex'

/** What findings are merged, compared and ranked by. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('sightings', (table) => {
    table.integer('job_id').unsigned().nullable().references('jobs.id').onDelete('CASCADE')
    // The item's own id, where the sighting still has it, and what it is like, both as SHA-256.
    table.specificType('strong', 'char(64) character set ascii collate ascii_bin null')
    table.specificType('likeness', 'char(64) character set ascii collate ascii_bin null')
    // Equal for sightings that say the same.
    table.specificType('version', 'char(16) character set ascii collate ascii_bin null')
    table.index(['job_id', 'category', 'likeness'])
    table.index(['source_id', 'condition', 'finding_id'])
  })
  await db.raw(
    'UPDATE sightings s JOIN findings f ON f.id = s.finding_id SET s.job_id = f.job_id, s.strong = f.identity',
  )
  await db.schema.alterTable('findings', (table) => {
    table.tinyint('match_score').unsigned().notNullable().defaultTo(0)
    table.index(['job_id', 'category', 'match_score', 'happened_at', 'id'], 'findings_by_match')
  })
  // What was put in at one time can be taken out again together.
  await db.schema.alterTable('tray', (table) => {
    table.datetime('added_at', { precision: 3 }).nullable()
  })
  // Findings that the technician joined: sightings of the one belong to the other, also of sources read later.
  await db.schema.createTable('identity_aliases', (table) => {
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('category', 24).notNullable()
    table.specificType('identity', 'char(64) character set ascii collate ascii_bin').notNullable()
    table.specificType('joined_to', 'char(64) character set ascii collate ascii_bin').notNullable()
    table.primary(['job_id', 'category', 'identity'])
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTableIfExists('identity_aliases')
  await db.schema.alterTable('tray', (table) => {
    table.dropColumn('added_at')
  })
  await db.schema.alterTable('findings', (table) => {
    table.dropIndex([], 'findings_by_match')
    table.dropColumn('match_score')
  })
  await db.schema.alterTable('sightings', (table) => {
    table.dropForeign('job_id')
    for (const column of ['job_id', 'strong', 'likeness', 'version']) table.dropColumn(column)
  })
}
