import { digest } from '@lumbrin/core/io/hash'
import type { Knex } from 'knex'
import type { JobId } from '../../domain/ids.js'
import { BEGINNING, entryHash } from '../log.js'

/** Who did what, in a chain of hashes; rows of the log can be added, and nothing else. */
export async function up(db: Knex): Promise<void> {
  await db.schema.alterTable('log', (table) => {
    table.string('operator', 100).notNullable().defaultTo('')
    table.specificType('detail_hash', 'char(64) character set ascii collate ascii_bin').notNullable().defaultTo('')
    table.specificType('hash', 'char(64) character set ascii collate ascii_bin').notNullable().defaultTo('')
  })
  await db.schema.createTable('log_heads', (table) => {
    table.integer('job_id').unsigned().primary().references('jobs.id').onDelete('CASCADE')
    table.integer('entries').unsigned().notNullable()
    table.specificType('hash', 'char(64) character set ascii collate ascii_bin').notNullable()
  })
  for (const table of ['reads', 'handovers'])
    await db.schema.alterTable(table, (columns) => {
      columns.string('operator', 100).notNullable().defaultTo('')
    })
  for (const { id } of await db('jobs').select('id')) await chain(db, id)
  // A purge takes the words of a log away, and leaves what proves that it is whole.
  await db.raw(
    `CREATE TRIGGER log_only_grows BEFORE UPDATE ON log FOR EACH ROW
     IF NOT (NEW.detail = '' AND NEW.id = OLD.id AND NEW.job_id = OLD.job_id AND NEW.at = OLD.at AND NEW.action = OLD.action
       AND NEW.operator = OLD.operator AND NEW.detail_hash = OLD.detail_hash AND NEW.hash = OLD.hash) THEN
       SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'entries of the log are not changed';
     END IF`,
  )
  await db.raw(
    `CREATE TRIGGER log_keeps_all BEFORE DELETE ON log FOR EACH ROW
     SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'entries of the log are not deleted'`,
  )
}

/** Entries from before are chained as they stand. */
async function chain(db: Knex, jobId: JobId): Promise<void> {
  const rows = await db('log').where({ job_id: jobId }).orderBy('id')
  let previous = BEGINNING
  for (const row of rows) {
    const detailHash = digest('sha256', row.detail)
    const hash = entryHash(previous, row, detailHash)
    await db('log').where({ id: row.id }).update({ detail_hash: detailHash, hash })
    previous = hash
  }
  await db('log_heads').insert({ job_id: jobId, entries: rows.length, hash: previous })
}

export async function down(db: Knex): Promise<void> {
  for (const name of ['log_only_grows', 'log_keeps_all']) await db.raw('DROP TRIGGER IF EXISTS ??', [name])
  for (const table of ['reads', 'handovers'])
    await db.schema.alterTable(table, (columns) => {
      columns.dropColumn('operator')
    })
  await db.schema.dropTableIfExists('log_heads')
  await db.schema.alterTable('log', (table) => table.dropColumns('operator', 'detail_hash', 'hash'))
}
