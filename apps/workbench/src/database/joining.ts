import type { CategoryId } from '@lumbrin/core/categories/registry'
import { digest } from '@lumbrin/core/io/hash'
import { AppError } from '../domain/errors.js'
import type { FindingId, JobId, SightingId } from '../domain/ids.js'
import { lockCategory } from './category-lock.js'
import { type Db, transactLatest } from './connection.js'
import { asId } from './json.js'
import { appendLog } from './log.js'
import { dropEmpty, inheritTray } from './merging.js'
import { restand } from './standings.js'

/** Takes a sighting out of a finding that it does not belong to: it becomes a finding of its own, whose id comes back. */
export async function splitSighting(db: Db, sightingId: SightingId): Promise<{ id: FindingId; jobId: JobId }> {
  return transactLatest(db, async (trx) => {
    await lockCategoryOf(trx, 'sightings', sightingId)
    const sighting = await trx('sightings')
      .join('findings', 'findings.id', 'sightings.finding_id')
      .where('sightings.id', sightingId)
      .first('sightings.*', 'findings.sighting_count', 'findings.bytes', 'findings.conversation')
    if (!sighting) throw new AppError('not-found', 'There is no such sighting.')
    if (sighting.sighting_count < 2)
      throw new AppError('conflict', 'This is the only sighting of its finding; there is nothing to split.')
    const identity = digest(
      'sha256',
      `split:${sighting.source_id}:${sighting.category}:${sighting.pass}:${sighting.ordinal}`,
    )
    const { job_id, category, title, text, happened_at, bytes, conversation } = sighting
    const [inserted] = await trx('findings').insert({
      ...{ job_id, category, identity, standing: 'partial', title, text, happened_at, bytes, conversation },
    })
    const id = asId<FindingId>(inserted)
    // Its likeness goes too, so that no later source brings it back.
    await trx('sightings').where({ id: sightingId }).update({ finding_id: id, strong: identity, likeness: null })
    await restand(trx, job_id, category, [asId(sighting.finding_id), id])
    await appendLog(trx, job_id, 'Sighting split off', `${title}: sighting ${sightingId} became finding ${id}`)
    return { id, jobId: job_id }
  })
}

/** Locks the category that a finding or a sighting belongs to, which never changes; nothing where it is gone. */
async function lockCategoryOf(trx: Db, table: 'findings' | 'sightings', id: FindingId | SightingId): Promise<void> {
  const row: { job_id: JobId; category: CategoryId } | undefined = await trx(table)
    .where('id', id)
    .first('job_id', 'category')
  if (row) await lockCategory(trx, row.job_id, row.category)
}

/** Makes two findings one; later sources of either go to it. @throws AppError where they cannot be joined */
export async function joinFindings(db: Db, keptId: FindingId, otherId: FindingId): Promise<JobId> {
  return transactLatest(db, async (trx) => {
    await lockCategoryOf(trx, 'findings', keptId)
    const [kept, other] = await Promise.all([keptId, otherId].map((id) => trx('findings').where({ id }).first()))
    if (!kept || !other || keptId === otherId) throw new AppError('not-found', 'Name two findings that are there.')
    if (kept.job_id !== other.job_id || kept.category !== other.category)
      throw new AppError('conflict', 'Only findings of one job and one category can be joined.')
    const place = { job_id: kept.job_id, category: kept.category }
    await trx('identity_aliases')
      .where({ ...place, joined_to: other.identity })
      .update({ joined_to: kept.identity })
    await trx('identity_aliases')
      .insert({ ...place, identity: other.identity, joined_to: kept.identity })
      .onConflict()
      .merge()
    // A sighting without an id of its own would go to whatever it is like when that is read: it keeps what it was.
    await trx('sightings')
      .where({ finding_id: otherId })
      .whereNull('strong')
      .update({ strong: other.identity, likeness: null })
    await trx('sightings').where({ finding_id: otherId }).update({ finding_id: keptId })
    await inheritTray(trx, kept.job_id, otherId, keptId)
    await dropEmpty(trx, [otherId])
    await restand(trx, kept.job_id, kept.category, [keptId])
    await appendLog(trx, kept.job_id, 'Findings joined', `${other.title} (${otherId}) into ${kept.title} (${keptId})`)
    return kept.job_id
  })
}
