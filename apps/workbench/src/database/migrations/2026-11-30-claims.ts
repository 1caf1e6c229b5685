import type { Knex } from 'knex'

/**
 * What claims follow from: devices as the technician said, the account of each step, whether contents can be had; and
 * what is claimed, so that lists need not work it out. Jobs get an id that no other installation has.
 */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('jobs', (table) => {
    table.specificType('uid', 'char(36) character set ascii collate ascii_bin null').unique()
    // Devices as the technician said, and steps of the route that were called done.
    table.json('said').nullable()
  })
  await db.raw('UPDATE jobs SET uid = UUID() WHERE uid IS NULL')
  await db.schema.alterTable('sources', (table) => {
    // The key of the device that the technician named.
    table.string('said_device', 190).nullable()
    // A name of the technician's own.
    table.string('said_name', 200).nullable()
  })
  await db.schema.alterTable('reads', (table) => {
    // `again`: it tries anew what was read before.
    table.string('mode', 10).notNullable().defaultTo('read')
    table.text('waits_for').nullable()
  })
  await db.schema.alterTable('read_steps', (table) => {
    // The date of the state that the step shows: when its files were fetched, or the backup was made.
    table.datetime('taken_at', { precision: 3 }).nullable()
    table.json('account').nullable()
  })
  await db.schema.alterTable('sightings', (table) => {
    table.string('content_state', 10).notNullable().defaultTo('none')
    table.integer('person_id').unsigned().nullable()
    table.integer('talk_id').unsigned().nullable()
    table.tinyint('has').unsigned().notNullable().defaultTo(0)
    table.index(['source_id', 'content_state', 'id'], 'sightings_by_content')
    table.index(['finding_id', 'source_id', 'condition', 'content_state'], 'sightings_claims')
  })
  await db.schema.alterTable('sightings', (table) => {
    table.dropIndex([], 'sightings_of_finding')
  })
  await db.raw("UPDATE sightings SET content_state = 'present' WHERE content IS NOT NULL")
  await db.schema.alterTable('findings', (table) => {
    table.datetime('binned_at', { precision: 3 }).nullable()
    table.datetime('lost_after', { precision: 3 }).nullable()
    table.datetime('lost_before', { precision: 3 }).nullable()
    table.string('content_state', 10).notNullable().defaultTo('none')
    // What a search asks for by name: `from:`, `in:` and `has:`.
    table.integer('person_id').unsigned().nullable()
    table.integer('talk_id').unsigned().nullable()
    table.tinyint('has').unsigned().notNullable().defaultTo(0)
    table.index(['job_id', 'person_id', 'category', 'standing', 'happened_at', 'id'], 'findings_by_person')
    table.index(['job_id', 'talk_id', 'category', 'standing', 'happened_at', 'id'], 'findings_in_talk')
    table.index(['job_id', 'category', 'has', 'standing', 'happened_at', 'id'], 'findings_having')
  })
  await db.schema.createTable('names', (table) => {
    table.increments('id')
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.string('kind', 10).notNullable()
    table.specificType('hash', 'char(40) character set ascii collate ascii_bin').notNullable()
    table.string('words', 800).notNullable()
    table.unique(['job_id', 'kind', 'hash'])
  })
}

export async function down(db: Knex): Promise<void> {
  await db.schema.dropTableIfExists('names')
  await db.schema.alterTable('findings', (table) => {
    for (const name of ['findings_by_person', 'findings_in_talk', 'findings_having']) table.dropIndex([], name)
    for (const column of ['binned_at', 'lost_after', 'lost_before', 'content_state', 'person_id', 'talk_id', 'has'])
      table.dropColumn(column)
  })
  await db.schema.alterTable('sightings', (table) => {
    table.index(['finding_id', 'source_id', 'condition'], 'sightings_of_finding')
  })
  await db.schema.alterTable('sightings', (table) => {
    for (const name of ['sightings_by_content', 'sightings_claims']) table.dropIndex([], name)
    for (const column of ['content_state', 'person_id', 'talk_id', 'has']) table.dropColumn(column)
  })
  await db.schema.alterTable('read_steps', (table) => {
    for (const column of ['taken_at', 'account']) table.dropColumn(column)
  })
  await db.schema.alterTable('reads', (table) => {
    for (const column of ['mode', 'waits_for']) table.dropColumn(column)
  })
  await db.schema.alterTable('sources', (table) => {
    for (const column of ['said_device', 'said_name']) table.dropColumn(column)
  })
  await db.schema.alterTable('jobs', (table) => {
    for (const column of ['uid', 'said']) table.dropColumn(column)
  })
}
