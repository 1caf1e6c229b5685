import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { ContentRef, Json } from '@lumbrin/core/categories/types'
import type { Standing } from '@lumbrin/core/findings/standing'
import type { Knex } from 'knex'
import type { FindingId, JobId } from '../domain/ids.js'
import { inMonth } from './conditions.js'
import type { Db } from './connection.js'
import { asId, parsed } from './json.js'
import { localTime } from './local-time.js'
import { findingsInTray } from './tray-blocks.js'

/** A category of a job's tray, or of all its findings. */
export interface Within {
  jobId: JobId
  part: 'tray' | 'findings'
  category: CategoryId
  /** Where months begin and end (IANA). */
  zone: string
}

/** A month as `2026-05`; null: what has no date. */
export type Shelf = string | null

/** Categories that have anything in a part. */
export async function categoriesWithin(db: Db, jobId: JobId, part: Within['part']): Promise<CategoryId[]> {
  return partOf(db, jobId, part).distinct('findings.category').pluck('findings.category')
}

function partOf(db: Db, jobId: JobId, part: Within['part']): Knex.QueryBuilder {
  return part === 'tray' ? findingsInTray(db, jobId) : db('findings').where('findings.job_id', jobId)
}

const rowsOf = (db: Db, { jobId, part, category }: Within): Knex.QueryBuilder =>
  partOf(db, jobId, part)
    .where('findings.category', category)
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')

/** The months that hold files, the newest first. */
export async function shelvesWithin(db: Db, within: Within): Promise<Shelf[]> {
  const month = db.raw("DATE_FORMAT(?, '%Y-%m') AS month", [localTime(db, 'findings.happened_at', within.zone)])
  const rows: { month: Shelf }[] = await rowsOf(db, within)
    .whereNotNull('sightings.content')
    .distinct(month)
    .orderBy('month', 'desc')
  return rows.map((row) => row.month)
}

export interface SharedFile {
  id: FindingId
  when: Date | null
  content: ContentRef
}

// More files in one folder than this is nothing that a file manager shows.
const MOST_FILES = 20_000

/** The files of a month, always in the same order, since their names are made of it. */
export async function filesWithin(db: Db, within: Within, month: Shelf): Promise<SharedFile[]> {
  const query = rowsOf(db, within).whereNotNull('sightings.content')
  if (month === null) query.whereNull('findings.happened_at')
  else {
    inMonth(query, month, within.zone)
  }
  const rows = await query
    .orderBy('findings.id')
    .limit(MOST_FILES)
    .select('findings.id', 'findings.happened_at', 'sightings.content')
  return rows.map((row: { id: number; happened_at: Date | null; content: unknown }) => ({
    id: asId(row.id),
    when: row.happened_at,
    content: parsed<ContentRef>(row.content),
  }))
}

export interface SharedItem {
  standing: Standing
  when: Date | null
  title: string
  text: string | null
  fields: { [key: string]: Json }
}

const PAGE = 1000

/** All items, by their ids, a page at a time. */
export async function* itemsWithin(db: Db, within: Within): AsyncGenerator<SharedItem> {
  const ids: number[] = await partOf(db, within.jobId, within.part)
    .where('findings.category', within.category)
    .orderBy('findings.id')
    .pluck('findings.id')
  for (let at = 0; at < ids.length; at += PAGE) {
    const rows = await db('findings')
      .join('sightings', 'sightings.id', 'findings.best_sighting_id')
      .whereIn('findings.id', ids.slice(at, at + PAGE))
      .orderBy('findings.id')
      .select('standing', 'findings.happened_at', 'findings.title', 'findings.text', 'sightings.fields')
    for (const row of rows)
      yield {
        standing: row.standing,
        when: row.happened_at,
        title: row.title,
        text: row.text,
        fields: parsed(row.fields),
      }
  }
}
