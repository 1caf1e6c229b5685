import type { CategoryId, Sighting } from '@lumbrin/core/categories/types'
import type { Standing } from '@lumbrin/core/findings/standing'
import type { Db } from './connection.js'
import { parsed } from './json.js'
import { type FindingFilter, filtered } from './queries.js'

/** What lies in the tray, by category and standing. */
export interface TrayLine {
  category: CategoryId
  standing: Standing
  count: number
  bytes: number
}

/** Puts findings of the job into its tray; those of other jobs are passed over. */
export async function addToTray(db: Db, jobId: number, ids: readonly number[]): Promise<void> {
  const mine = await db('findings')
    .where({ job_id: jobId })
    .whereIn('id', [...ids])
    .pluck('id')
  if (mine.length > 0)
    await db('tray')
      .insert(mine.map((id) => ({ job_id: jobId, finding_id: id })))
      .onConflict()
      .ignore()
}

/** What was put in together, and how to take it out again. */
export interface Added {
  count: number
  at: string
}

/** Puts all findings of a filter into the tray, in one statement. */
export async function addMatching(db: Db, jobId: number, filter: FindingFilter): Promise<Added> {
  const at = new Date()
  const chosen = filtered(db, jobId, filter).select(db.raw('?', [jobId]), 'findings.id', db.raw('?', [at]))
  // In the order of the tray's own key, so that rows are put behind each other.
  const { sql, bindings } = chosen.orderBy('findings.id').toSQL()
  const [result] = await db.raw(`INSERT IGNORE INTO tray (job_id, finding_id, added_at) ${sql}`, bindings as never)
  return { count: result.affectedRows, at: at.toISOString() }
}

/** Takes out what was put in together, and nothing that lay there before. */
export async function removeAdded(db: Db, jobId: number, at: string): Promise<number> {
  return db('tray')
    .where({ job_id: jobId, added_at: new Date(at) })
    .delete()
}

export async function removeFromTray(db: Db, jobId: number, ids: readonly number[]): Promise<void> {
  await db('tray')
    .where({ job_id: jobId })
    .whereIn('finding_id', [...ids])
    .delete()
}

/** Takes a whole category out of the tray. */
export async function removeCategory(db: Db, jobId: number, category: CategoryId): Promise<void> {
  await db('tray')
    .where({ job_id: jobId })
    .whereIn('finding_id', db('findings').where({ job_id: jobId, category }).select('id'))
    .delete()
}

export async function summariseTray(db: Db, jobId: number): Promise<TrayLine[]> {
  const rows: TrayLine[] = await db('tray')
    .join('findings', 'findings.id', 'tray.finding_id')
    .where('tray.job_id', jobId)
    .groupBy('category', 'standing')
    .select('category', 'standing')
    .count({ count: '*' })
    .sum({ bytes: 'bytes' })
  return rows.map((row) => ({
    category: row.category,
    standing: row.standing,
    count: Number(row.count),
    bytes: Number(row.bytes),
  }))
}

/** Ids of the sources that the best copies in the tray come from. */
export async function sourcesOfTray(db: Db, jobId: number): Promise<number[]> {
  return db('tray')
    .join('findings', 'findings.id', 'tray.finding_id')
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where('tray.job_id', jobId)
    .distinct('sightings.source_id')
    .pluck('sightings.source_id')
}

/** One finding of the tray with its best copy, ready to be handed over. */
export interface TrayItem {
  standing: Standing
  sourceId: number
  /** Path of the source. */
  source: string
  sighting: Sighting
}

const PAGE = 500

/** Everything in the tray: category by category, conversations together, each in the order of its dates. */
export async function* trayItems(db: Db, jobId: number): AsyncGenerator<TrayItem> {
  const ids: number[] = await db('tray')
    .join('findings', 'findings.id', 'tray.finding_id')
    .where('tray.job_id', jobId)
    .orderBy(['category', 'conversation', 'happened_at', 'findings.id'])
    .pluck('findings.id')
  for (let at = 0; at < ids.length; at += PAGE) {
    const page = ids.slice(at, at + PAGE)
    const rows = await db('findings')
      .join('sightings', 'sightings.id', 'findings.best_sighting_id')
      .whereIn('findings.id', page)
      .join('sources', 'sources.id', 'sightings.source_id')
      .select('findings.id as finding', 'standing', 'sightings.*', 'sources.path as source_path')
    const byId = new Map(rows.map((row) => [Number(row.finding), row]))
    for (const id of page) {
      const row = byId.get(id)
      if (row)
        yield { standing: row.standing, sourceId: row.source_id, source: row.source_path, sighting: toSighting(row) }
    }
  }
}

// biome-ignore lint/suspicious/noExplicitAny: rows of the database are shaped by the migrations beside this file
const toSighting = (raw: any): Sighting => ({
  category: raw.category,
  condition: raw.condition,
  when: raw.happened_at?.toISOString() ?? null,
  title: raw.title,
  text: raw.text,
  fields: parsed(raw.fields),
  content: parsed(raw.content),
  origin: parsed(raw.origin),
  missing: parsed(raw.missing),
  confidence: raw.confidence,
})
