import type { Knex } from 'knex'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'

/*
 * The tray is kept as a bit for each finding, 64 neighbours by their ids in a row of `tray_blocks`.
 */

/** The findings in a job's tray. The ids of each block are a stretch that is read at once. */
export const findingsInTray = (db: Db, jobId: JobId): Knex.QueryBuilder =>
  db
    .from(
      db.raw(
        `tray_blocks AS chosen STRAIGHT_JOIN findings ON findings.id BETWEEN chosen.block * 64 AND chosen.block * 64 + 63
         AND (chosen.bits >> (findings.id & 63)) & 1`,
      ),
    )
    .where('chosen.job_id', jobId)
    .whereNot('chosen.bits', 0)

/** The findings of a query as bits by block. */
export const blocksOf = (db: Db, findings: Knex.QueryBuilder): Knex.QueryBuilder => {
  const bits = db.raw('BIT_OR(1 << (findings.id & 63)) AS bits')
  return db.from(findings.select(db.raw('findings.id DIV 64 AS block'), bits).groupBy('block').as('blocks'))
}

/** Joins a query of findings with their block of the tray; `IN_TRAY` then tells whether each is chosen. */
export const joinTray = (db: Db, query: Knex.QueryBuilder): Knex.QueryBuilder =>
  query.leftJoin('tray_blocks as chosen', (join) =>
    join.on('chosen.job_id', 'findings.job_id').andOn('chosen.block', db.raw('findings.id DIV 64')),
  )

/** A column, 1 or 0: of findings that were joined with the tray. */
export const IN_TRAY = '(COALESCE(chosen.bits, 0) >> (findings.id & 63)) & 1 AS in_tray'

/** Chooses what rows of block and bits say; what is chosen stays so. */
export async function insertBits(db: Db, jobId: JobId, rows: Knex.QueryBuilder): Promise<void> {
  const { sql, bindings } = rows.select('block', 'bits').toSQL()
  await db.raw(
    `INSERT INTO tray_blocks (job_id, block, bits) SELECT ?, fresh.block, fresh.bits FROM (${sql}) AS fresh
     ON DUPLICATE KEY UPDATE bits = tray_blocks.bits | VALUES(bits)`,
    [jobId, ...bindings] as never,
  )
}

/** Takes out what rows of block and bits say. Only their blocks are locked, each found by its key. */
export async function clearBits(db: Db, jobId: JobId, rows: Knex.QueryBuilder): Promise<void> {
  const { sql, bindings } = rows.select('block', 'bits').toSQL()
  await db.raw(
    `UPDATE (${sql}) AS gone STRAIGHT_JOIN tray_blocks AS chosen ON chosen.job_id = ? AND chosen.block = gone.block
     SET chosen.bits = chosen.bits & ~gone.bits`,
    [...bindings, jobId] as never,
  )
}
