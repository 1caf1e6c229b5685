import { mayHold } from '@lumbrin/core/categories/encrypted'
import type { CategoryId, Condition, Json } from '@lumbrin/core/categories/types'
import { matchOf, type Sought } from '@lumbrin/core/findings/match'
import { isBetterCopy, newestOf, type SeenAs, standingOf } from '@lumbrin/core/findings/standing'
import { lossWindow } from '@lumbrin/core/findings/window'
import { soughtOf } from '../services/brief.js'
import type { Db } from './connection.js'
import { findJob } from './jobs.js'
import { parsed } from './json.js'

/** A source that was read for a category, as far as it tells what is gone. */
export interface CountingSource {
  id: number
  takenAt: number | null
  counts: boolean
}

/**
 * The sources of a job that were read for a category. One that never can hold the category says nothing by its silence,
 * nor does one in which not a single item of it was seen.
 */
export async function countingSources(trx: Db, jobId: number, category: CategoryId): Promise<CountingSource[]> {
  const rows: { id: number; taken_at: Date | null; info: unknown; seen: unknown; read: unknown }[] = await trx(
    'sources',
  )
    .leftJoin('reads', 'reads.source_id', 'sources.id')
    .leftJoin('read_steps', (join) =>
      join.on('read_steps.read_id', 'reads.id').andOnVal('read_steps.category', category),
    )
    .where({ 'sources.job_id': jobId })
    .groupBy('sources.id', 'sources.taken_at', 'sources.info')
    .select(
      'sources.id',
      'sources.taken_at',
      'sources.info',
      trx.raw('SUM(read_steps.done) AS seen'),
      trx.raw("MAX(read_steps.pass = 'live') AS `read`"),
    )
  return rows.map((row) => ({
    id: Number(row.id),
    takenAt: row.taken_at?.getTime() ?? null,
    counts: Number(row.read) === 1 && Number(row.seen) > 0 && mayHold(parsed(row.info), category),
  }))
}

type SeenRow = SeenAs & { id: number }

interface Group {
  seen: SeenRow[]
}

/** Works out standing, best copy and match of findings from all their sightings, and shows the best copy's words. */
export async function restand(trx: Db, jobId: number, category: CategoryId, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return
  const sources = await countingSources(trx, jobId, category)
  const sought = await soughtIn(trx, jobId)
  const groups = await seenOf(trx, ids, sources)
  const bestIds = [...groups].map(([id, { seen }]) => [id, bestOf(seen).id] as const)
  const best = await shownOf(
    trx,
    bestIds.map(([, sighting]) => sighting),
  )
  const newest = newestOf(sources) ?? newestOf(sources.map((source) => ({ ...source, counts: true })))
  const dates = sources.flatMap((source) => (source.counts && source.takenAt !== null ? [source.takenAt] : []))
  const changes = bestIds.map(([id, bestId]) => {
    const { seen } = groups.get(id) as Group
    const standing = standingOf(seen, newest)
    const { title, text, fields } = best.get(bestId) as Shown
    const window = lossWindow(seen, dates)
    const { score } = matchOf(sought, { category, standing, title, text, fields, window })
    return { id, standing, bestId, seen: seen.length, score }
  })
  await storeChanges(trx, ids, changes)
}

interface Standing {
  id: number
  standing: string
  bestId: number
  seen: number
  score: number
}

async function storeChanges(trx: Db, ids: readonly number[], standings: readonly Standing[]): Promise<void> {
  const rows = await trx('findings')
    .whereIn('id', [...ids])
    .select('id', 'standing', 'best_sighting_id', 'sighting_count', 'match_score')
  const said = new Map(
    rows.map((row) => [
      Number(row.id),
      `${row.standing} ${row.best_sighting_id} ${row.sighting_count} ${row.match_score}`,
    ]),
  )
  const changes = standings.filter(
    ({ id, standing, bestId, seen, score }) => said.get(id) !== `${standing} ${bestId} ${seen} ${score}`,
  )
  if (changes.length === 0) return
  // One statement for the whole batch; the words shown are those of the best copy.
  const listed = changes.map(() => 'SELECT ? AS id, ? AS standing, ? AS best, ? AS seen, ? AS score')
  await trx.raw(
    `UPDATE findings f JOIN (${listed.join(' UNION ALL ')}) c ON c.id = f.id JOIN sightings s ON s.id = c.best
     SET f.standing = c.standing, f.best_sighting_id = c.best, f.sighting_count = c.seen, f.match_score = c.score,
       f.happened_at = s.happened_at, f.title = s.title, f.text = s.text`,
    changes.flatMap(({ id, standing, bestId, seen, score }) => [id, standing, bestId, seen, score]),
  )
}

async function seenOf(
  trx: Db,
  ids: readonly number[],
  sources: readonly CountingSource[],
): Promise<Map<number, Group>> {
  const takenAt = new Map(sources.map((source) => [source.id, source.takenAt]))
  // Answered from an index alone, which a join or an order would not be.
  const rows: { id: number; finding_id: number; condition: Condition; source_id: number }[] = await trx('sightings')
    .whereIn('finding_id', [...ids])
    .select('id', 'finding_id', 'condition', 'source_id')
  rows.sort((a, b) => a.id - b.id)
  const groups = new Map<number, Group>()
  for (const row of rows) {
    const id = Number(row.finding_id)
    const one = { id: Number(row.id), condition: row.condition, sourceTakenAt: takenAt.get(row.source_id) ?? null }
    const group = groups.get(id)
    if (group) group.seen.push(one)
    else groups.set(id, { seen: [one] })
  }
  return groups
}

const bestOf = (seen: SeenRow[]): SeenRow => seen.reduce((best, one) => (isBetterCopy(one, best) ? one : best))

interface Shown {
  title: string
  text: string | null
  fields: { [key: string]: Json }
}

async function shownOf(trx: Db, ids: number[]): Promise<Map<number, Shown>> {
  const rows = await trx('sightings').whereIn('id', ids).select('id', 'title', 'text', 'fields')
  return new Map(rows.map(({ id, title, text, fields }) => [Number(id), { title, text, fields: parsed(fields) }]))
}

async function soughtIn(trx: Db, jobId: number): Promise<Sought> {
  const job = await findJob(trx, jobId)
  if (!job) throw new Error(`job ${jobId} is gone`)
  return soughtOf(job.brief)
}

const CHUNK = 1000

/**
 * Works out all findings of a category again, without reading any source: after another source was read for it, what
 * that one does not show is gone from it, and windows of loss became narrower. What it does show was worked out as it
 * was stored, and is left alone where `read` names that source.
 */
export async function restandCategory(db: Db, jobId: number, category: CategoryId, read?: number): Promise<void> {
  for (let after = 0; ; ) {
    const findings = db('findings').where({ job_id: jobId, category }).where('id', '>', after)
    if (read !== undefined)
      findings.whereNotExists(
        db('sightings').where('sightings.finding_id', db.ref('findings.id')).where({ source_id: read }),
      )
    const rows = await findings.orderBy('id').limit(CHUNK).select('id')
    const ids = rows.map((row) => Number(row.id))
    await restand(db, jobId, category, ids)
    if (ids.length < CHUNK) return
    after = ids.at(-1) as number
  }
}

/** The same for a whole job: its brief or its sources changed. */
export async function restandAll(db: Db, jobId: number): Promise<void> {
  const categories: { category: CategoryId }[] = await db('findings').where({ job_id: jobId }).distinct('category')
  for (const { category } of categories) await restandCategory(db, jobId, category)
}
