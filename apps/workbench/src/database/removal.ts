import type { CategoryId } from '@lumbrin/core/categories/registry'
import { digest } from '@lumbrin/core/io/hash'
import type { JobId, SourceId } from '../domain/ids.js'
import { ENDED } from '../domain/read-states.js'
import type { Source } from '../domain/source.js'
import { lockCategory } from './category-lock.js'
import { type Db, transact, transactLatest } from './connection.js'
import { asId } from './json.js'
import { dropEmpty } from './merging.js'
import { restand } from './standings.js'
import { findingsInTray } from './tray-blocks.js'

/** What goes with a source: findings that no other source shows, and how many of those lie in the tray. */
export async function countRemoval(db: Db, { id, jobId }: Source): Promise<{ findings: number; inTray: number }> {
  const alone = db('sightings')
    .where({ job_id: jobId })
    .groupBy('finding_id')
    .havingRaw('MIN(source_id) = ? AND MAX(source_id) = ?', [id, id])
    .select('finding_id')
  const [all] = await db.from(alone.clone().as('alone')).count({ count: '*' })
  const [chosen] = await findingsInTray(db, jobId).whereIn('findings.id', alone).count({ count: '*' })
  return { findings: Number(all?.count ?? 0), inTray: Number(chosen?.count ?? 0) }
}

/**
 * Says that a source is to go: from now on it is in no list. Its reads go first, so that nothing claims to have been read
 * of it while its sightings go piece by piece.
 * @returns false where it is being read, or waits for it: nothing was changed then
 */
export async function markRemoved(db: Db, id: SourceId): Promise<boolean> {
  return transact(db, async (trx) => {
    // No read can begin between this look and the end: what is looked at is locked.
    const reads = await trx('reads').where({ source_id: id }).forUpdate().select('state')
    if (reads.some(({ state }) => !ENDED.includes(state))) return false
    // Its place is free at once: the same may be added again.
    await trx('sources')
      .where({ id })
      .update({ removed_at: new Date(), path_hash: digest('sha256', `removed ${id}`) })
    await trx('reads').where({ source_id: id }).delete()
    return true
  })
}

/** Sources that were to go and did not yet. */
export async function removedSources(db: Db): Promise<{ id: SourceId; jobId: JobId }[]> {
  const rows = await db('sources').whereNotNull('removed_at').select('id', 'job_id')
  return rows.map(({ id, job_id }) => ({ id: asId<SourceId>(id), jobId: job_id }))
}

const AT_ONCE = 1000

/**
 * Removes some sightings of a source; findings that nothing is left of go, and of the others what is claimed is worked out
 * anew. False: none were left.
 */
export async function removeSightings(db: Db, id: SourceId, jobId: JobId): Promise<boolean> {
  return transactLatest(db, async (trx) => {
    const first = await trx('sightings').where({ source_id: id }).first('category')
    if (!first) return false
    const category: CategoryId = first.category
    await lockCategory(trx, jobId, category)
    const rows: { id: number; finding_id: number }[] = await trx('sightings')
      .where({ source_id: id, category })
      .limit(AT_ONCE)
      .select('id', 'finding_id')
    const findings = [...new Set(rows.map((row) => Number(row.finding_id)))]
    await trx('sightings')
      .whereIn(
        'id',
        rows.map((row) => row.id),
      )
      .delete()
    await restand(trx, jobId, category, await dropEmpty(trx, findings))
    return true
  })
}

/** Removes the row of a source of which nothing else is left. */
export async function deleteSource(db: Db, id: SourceId): Promise<void> {
  await db('sources').where({ id }).delete()
}
