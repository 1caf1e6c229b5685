import { randomUUID } from 'node:crypto'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { Standing } from '@lumbrin/core/findings/standing'
import type { Knex } from 'knex'
import type { MatchKind } from '../domain/answer.js'
import type { FindingFilter } from '../domain/filter.js'
import type { JobId, SightingId, SourceId } from '../domain/ids.js'
import type { TrayChange, TrayLine } from '../domain/tray.js'
import { matchesIn } from './answers.js'
import { type Db, transact } from './connection.js'
import { asId, parsed } from './json.js'
import { findingsWith, knownAs } from './people.js'
import { fromStored } from './places.js'
import { filtered } from './queries.js'
import type { SightingsTable } from './tables.js'
import { blocksOf, clearBits, findingsInTray, insertBits } from './tray-blocks.js'

/** Puts findings of the job into its tray; those of other jobs are passed over. */
export const addToTray = (db: Db, jobId: JobId, ids: readonly number[]): Promise<TrayChange> =>
  changeTray(db, jobId, true, (trx) => mine(trx, jobId, ids))

export const removeFromTray = (db: Db, jobId: JobId, ids: readonly number[]): Promise<TrayChange> =>
  changeTray(db, jobId, false, (trx) => mine(trx, jobId, ids))

/** Puts all findings of a filter into the tray, at once. */
export const addMatching = (db: Db, jobId: JobId, filter: FindingFilter): Promise<TrayChange> =>
  changeTray(db, jobId, true, (trx) => filtered(trx, jobId, filter))

export const removeMatching = (db: Db, jobId: JobId, filter: FindingFilter): Promise<TrayChange> =>
  changeTray(db, jobId, false, (trx) => filtered(trx, jobId, filter))

/** Puts all that matches the brief into the tray. */
export const addMatches = (db: Db, jobId: JobId, kind: MatchKind): Promise<TrayChange> =>
  changeTray(db, jobId, true, (trx) => matchesIn(trx, jobId, kind))

/** Puts everything with a person into the tray, or what of it is gone from the device. */
export async function addPerson(
  db: Db,
  jobId: JobId,
  { name, ...which }: { name: string; lost: boolean; category: CategoryId | null },
): Promise<TrayChange> {
  const known = await knownAs(db, jobId, name)
  return changeTray(db, jobId, true, (trx) => findingsWith(trx, jobId, known, which))
}

/** Takes a whole category out of the tray. */
export const removeCategory = (db: Db, jobId: JobId, category: CategoryId): Promise<TrayChange> =>
  changeTray(db, jobId, false, (trx) => trx('findings').where({ job_id: jobId, category }))

const mine = (db: Db, jobId: JobId, ids: readonly number[]) =>
  db('findings')
    .where({ job_id: jobId })
    .whereIn('findings.id', [...ids])

// So long after it, a change can be undone.
const UNDO_MS = 86_400_000

async function changeTray(
  db: Db,
  jobId: JobId,
  put: boolean,
  findings: (trx: Db) => Knex.QueryBuilder,
): Promise<TrayChange> {
  const at = new Date()
  const step = randomUUID()
  return transact(
    db,
    async (trx) => {
      await trx('tray_steps')
        .where({ job_id: jobId })
        .where('changed_at', '<', new Date(at.getTime() - UNDO_MS))
        .delete()
      const changed = trx
        .from(blocksOf(trx, findings(trx)).as('found'))
        .leftJoin('tray_blocks as chosen', (join) =>
          join.on('chosen.block', 'found.block').andOnVal('chosen.job_id', jobId),
        )
        .select(trx.raw('? AS job_id, ? AS step, ? AS put, ? AS changed_at', [jobId, step, put, at]), 'found.block')
        .select(trx.raw(`found.bits & ${put ? '~' : ''}COALESCE(chosen.bits, 0) AS bits`))
        .having('bits', '<>', 0)
      await trx.into(trx.raw('tray_steps (job_id, step, put, changed_at, block, bits)')).insert(changed)
      const rows = trx('tray_steps').where({ job_id: jobId, step })
      await (put ? insertBits(trx, jobId, rows.clone()) : clearBits(trx, jobId, rows.clone()))
      const sum = await rows.sum({ count: trx.raw('BIT_COUNT(bits)') }).first()
      return { count: Number(sum?.count ?? 0), step }
    },
    // What is read is not locked: findings may come meanwhile.
    { isolationLevel: 'read committed' },
  )
}

/** Takes out what a change put in, and nothing that lay there before; or puts back what it took out. */
export async function undoChange(db: Db, jobId: JobId, step: string): Promise<void> {
  await transact(db, async (trx) => {
    const rows = trx('tray_steps').where({ job_id: jobId, step })
    const first = await rows.clone().first('put')
    if (!first) return
    await (first.put ? clearBits(trx, jobId, rows.clone()) : insertBits(trx, jobId, rows.clone()))
    await rows.delete()
  })
}

export async function summariseTray(db: Db, jobId: JobId): Promise<TrayLine[]> {
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
export async function sourcesOfTray(db: Db, jobId: JobId): Promise<number[]> {
  return findingsInTray(db, jobId)
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .distinct('sightings.source_id')
    .pluck('sightings.source_id')
}

/** One finding of the tray with its best copy, ready to be handed over. */
export interface TrayItem {
  standing: Standing
  sightingId: SightingId
  sourceId: SourceId
  /** Path of the source. */
  source: string
  sighting: Sighting
  /** What the technician noted to it; null: nothing. */
  note: string | null
}

const PAGE = 500

/** Everything in the tray: category by category, conversations together, each in the order of its dates. */
export async function* trayItems(db: Db, jobId: JobId): AsyncGenerator<TrayItem> {
  const ids: number[] = await findingsInTray(db, jobId)
    .orderBy(['category', 'conversation', 'happened_at', 'findings.id'])
    .pluck('findings.id')
  for (let at = 0; at < ids.length; at += PAGE) {
    const page = ids.slice(at, at + PAGE)
    const rows = await db('findings')
      .join('sightings', 'sightings.id', 'findings.best_sighting_id')
      .whereIn('findings.id', page)
      .join('sources', 'sources.id', 'sightings.source_id')
      .leftJoin('notes', 'notes.finding_id', 'findings.id')
      .select('findings.id as finding', 'standing', 'sightings.*', 'sources.path as source_path', 'notes.text as note')
    const byId = new Map(rows.map((row) => [Number(row.finding), row]))
    for (const id of page) {
      const row = byId.get(id)
      if (row)
        yield {
          standing: row.standing,
          sightingId: asId(row.id),
          sourceId: row.source_id,
          source: fromStored(row.source_path),
          sighting: toSighting(row),
          note: row.note,
        }
    }
  }
}

const toSighting = (raw: SightingsTable): Sighting => ({
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
