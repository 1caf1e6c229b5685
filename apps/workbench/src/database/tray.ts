import { randomUUID } from 'node:crypto'
import type { CategoryId, Sighting } from '@lumbrin/core/categories/types'
import type { Standing } from '@lumbrin/core/findings/standing'
import { type Db, transact } from './connection.js'
import { parsed } from './json.js'
import { type FindingFilter, filtered } from './queries.js'
import { blocksOf, clearBits, findingsInTray, insertBits, setBits } from './tray-blocks.js'

/** What lies in the tray, by category and standing. */
export interface TrayLine {
  category: CategoryId
  standing: Standing
  count: number
  bytes: number
}

/** Puts findings of the job into its tray; those of other jobs are passed over. */
export async function addToTray(db: Db, jobId: number, ids: readonly number[]): Promise<void> {
  await transact(db, (trx) => setBits(trx, jobId, mine(trx, jobId, ids)))
}

const mine = (db: Db, jobId: number, ids: readonly number[]) =>
  db('findings')
    .where({ job_id: jobId })
    .whereIn('findings.id', [...ids])

/** What was put in together, and how to take it out again. */
export interface Added {
  count: number
  step: string
}

// So long after it, what was put in together can be taken out again.
const UNDO_MS = 86_400_000

/** Puts all findings of a filter into the tray, at once. */
export async function addMatching(db: Db, jobId: number, filter: FindingFilter): Promise<Added> {
  const at = new Date()
  const step = randomUUID()
  return transact(
    db,
    async (trx) => {
      await trx('tray_steps')
        .where({ job_id: jobId })
        .where('added_at', '<', new Date(at.getTime() - UNDO_MS))
        .delete()
      const fresh = trx
        .from(blocksOf(trx, filtered(trx, jobId, filter)).as('found'))
        .leftJoin('tray_blocks as chosen', (join) =>
          join.on('chosen.block', 'found.block').andOnVal('chosen.job_id', jobId),
        )
        .select(trx.raw('? AS job_id, ? AS step, ? AS added_at', [jobId, step, at]), 'found.block')
        .select(trx.raw('found.bits & ~COALESCE(chosen.bits, 0) AS bits'))
        .having('bits', '<>', 0)
      await trx.into(trx.raw('tray_steps (job_id, step, added_at, block, bits)')).insert(fresh)
      await insertBits(trx, trx('tray_steps').where({ job_id: jobId, step }).select('job_id', 'block', 'bits'))
      const sum = await trx('tray_steps').where({ job_id: jobId, step }).first(trx.raw('SUM(BIT_COUNT(bits)) AS count'))
      return { count: Number(sum.count), step }
    },
    // What is read is not locked: findings may come meanwhile.
    { isolationLevel: 'read committed' },
  )
}

/** Takes out what was put in together, and nothing that lay there before. */
export async function removeAdded(db: Db, jobId: number, step: string): Promise<void> {
  const added = { job_id: jobId, step }
  await transact(db, async (trx) => {
    await clearBits(trx, jobId, trx('tray_steps').where(added).select('block', 'bits'))
    await trx('tray_steps').where(added).delete()
  })
}

export async function removeFromTray(db: Db, jobId: number, ids: readonly number[]): Promise<void> {
  await transact(db, (trx) => clearBits(trx, jobId, blocksOf(trx, mine(trx, jobId, ids))))
}

/** Takes a whole category out of the tray. */
export async function removeCategory(db: Db, jobId: number, category: CategoryId): Promise<void> {
  await transact(db, (trx) => clearBits(trx, jobId, blocksOf(trx, trx('findings').where({ job_id: jobId, category }))))
}

export async function summariseTray(db: Db, jobId: number): Promise<TrayLine[]> {
  const rows: TrayLine[] = await findingsInTray(db, jobId)
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
  return findingsInTray(db, jobId)
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
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
  const ids: number[] = await findingsInTray(db, jobId)
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
