import type { Knex } from 'knex'

/** Findings, the sightings they are merged from, the tray, and handovers. */
export async function up(db: Knex): Promise<void> {
  await db.schema.createTable('findings', (table) => {
    table.bigIncrements('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('category', 24).notNullable()
    table.specificType('identity', 'char(64) character set ascii collate ascii_bin').notNullable()
    table.string('standing', 10).notNullable()
    table.datetime('happened_at', { precision: 3 }).nullable()
    table.string('title', 500).notNullable()
    table.text('text', 'mediumtext').nullable()
    table.string('conversation', 190).notNullable().defaultTo('')
    table.string('conversation_title', 190).notNullable().defaultTo('')
    table.bigInteger('bytes').notNullable().defaultTo(0)
    table.bigInteger('best_sighting_id').unsigned().nullable()
    table.integer('sighting_count').notNullable().defaultTo(0)
    table.unique(['job_id', 'category', 'identity'])
    table.index(['job_id', 'category', 'standing', 'happened_at', 'id'])
    table.index(['job_id', 'category', 'happened_at', 'id'])
    table.index(['job_id', 'category', 'conversation', 'happened_at', 'id'])
  })
  await db.raw('ALTER TABLE findings ADD FULLTEXT findings_words (title, text)')
  await db.schema.createTable('sightings', (table) => {
    table.bigIncrements('id')
    table.bigInteger('finding_id').unsigned().notNullable().references('findings.id').onDelete('CASCADE')
    table.integer('source_id').unsigned().notNullable().references('sources.id').onDelete('CASCADE')
    table.string('category', 24).notNullable()
    table.string('pass', 10).notNullable()
    // Position within its step: reading goes on by it, and nothing can be stored twice.
    table.integer('ordinal').unsigned().notNullable()
    table.string('condition', 10).notNullable()
    table.datetime('happened_at', { precision: 3 }).nullable()
    table.string('title', 500).notNullable()
    table.text('text', 'mediumtext').nullable()
    table.json('fields').notNullable()
    table.json('content').nullable()
    table.json('origin').notNullable()
    table.json('missing').notNullable()
    table.float('confidence').notNullable()
    table.unique(['source_id', 'category', 'pass', 'ordinal'])
  })
  await db.schema.createTable('tray', (table) => {
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.bigInteger('finding_id').unsigned().notNullable().references('findings.id').onDelete('CASCADE')
    table.primary(['job_id', 'finding_id'])
  })
  await db.schema.createTable('handovers', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('kind', 10).notNullable()
    table.string('destination', 1000).notNullable()
    table.string('state', 12).notNullable().index()
    table.string('claimed_by', 100).nullable()
    table.datetime('heartbeat_at', { precision: 3 }).nullable()
    table.integer('done').notNullable().defaultTo(0)
    table.integer('total').notNullable().defaultTo(0)
    table.json('summary').nullable()
    table.text('error').nullable()
    table.datetime('created_at', { precision: 3 }).notNullable()
    table.datetime('ended_at', { precision: 3 }).nullable()
  })
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['handovers', 'tray', 'sightings', 'findings']) await db.schema.dropTableIfExists(table)
}
