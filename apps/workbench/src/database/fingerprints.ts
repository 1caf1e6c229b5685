import { type CategoryId, PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import type { ContentRef } from '@lumbrin/core/categories/types'
import type { Standing } from '@lumbrin/core/findings/standing'
import type { FindingId, JobId, SightingId, SourceId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { asId, parsed } from './json.js'
import type { FindingsTable } from './tables.js'
import { IN_TRAY, joinTray } from './tray-blocks.js'

/** A picture whose fingerprint is not known yet. */
export interface Unprinted {
  sightingId: SightingId
  jobId: JobId
  sourceId: SourceId
  content: ContentRef
}

/** The next pictures without a fingerprint behind a sighting, in the order of their ids. */
export async function unprintedAfter(db: Db, after: number, most: number): Promise<Unprinted[]> {
  const rows = await db('sightings')
    .leftJoin('fingerprints', 'fingerprints.sighting_id', 'sightings.id')
    .where('sightings.id', '>', after)
    .whereIn('sightings.category', [...PICTURE_CATEGORIES])
    .whereNull('fingerprints.sighting_id')
    .whereRaw("JSON_VALUE(sightings.content, '$.mime') LIKE 'image/%'")
    .orderBy('sightings.id')
    .limit(most)
    .select('sightings.id', 'sightings.job_id', 'sightings.source_id', 'sightings.content')
  return rows.map((row) => ({
    sightingId: asId(row.id),
    jobId: row.job_id,
    sourceId: row.source_id,
    content: parsed(row.content),
  }))
}

/** A fingerprint as it is stored; null where the picture has none. */
export interface Print {
  sha256: string | null
  coarse: bigint | null
  fine: Uint8Array | null
  width: number | null
  height: number | null
}

export async function storePrint(db: Db, { sightingId, jobId }: Unprinted, print: Print): Promise<void> {
  const coarse = print.coarse === null ? null : Buffer.alloc(8)
  coarse?.writeBigUInt64BE(print.coarse ?? 0n)
  const fine = print.fine && Buffer.from(print.fine)
  await db('fingerprints')
    .insert({ ...print, sighting_id: sightingId, job_id: jobId, coarse, fine })
    .onConflict()
    .ignore()
}

/** A fingerprint with the finding that it belongs to. */
export interface FoundPrint extends Print {
  findingId: FindingId
}

/** All fingerprints of a job. */
export async function printsOf(db: Db, jobId: JobId): Promise<FoundPrint[]> {
  const rows = await db('fingerprints')
    .join('sightings', 'sightings.id', 'fingerprints.sighting_id')
    .where('fingerprints.job_id', jobId)
    .whereNotNull('fingerprints.sha256')
    .orderBy('fingerprints.sighting_id')
    .select('sightings.finding_id', 'sha256', 'coarse', 'fine', 'width', 'height')
  return rows.map((row) => ({
    findingId: asId(row.finding_id),
    sha256: row.sha256,
    coarse: row.coarse && (row.coarse as Buffer).readBigUInt64BE(0),
    fine: row.fine,
    width: row.width,
    height: row.height,
  }))
}

/** How many fingerprints a job has: a list that is kept is as good as new while this stays. */
export async function countPrints(db: Db, jobId: JobId): Promise<number> {
  return Number((await db('fingerprints').where({ job_id: jobId }).count({ n: '*' }).first())?.n ?? 0)
}

/** A finding as a copy is shown. */
export interface CopyLine {
  id: FindingId
  category: CategoryId
  title: string
  standing: Standing
  bytes: number
  inTray: boolean
}

export async function copyLines(db: Db, jobId: JobId, ids: readonly number[]): Promise<CopyLine[]> {
  const rows: (FindingsTable & { in_tray: unknown })[] = await joinTray(db, db('findings'))
    .where('findings.job_id', jobId)
    .whereIn('findings.id', [...ids])
    .select('findings.id', 'category', 'title', 'standing', 'bytes', db.raw(IN_TRAY))
  return rows.map((row) => ({
    id: asId(row.id),
    category: row.category,
    title: row.title,
    standing: row.standing,
    bytes: Number(row.bytes),
    inTray: Number(row.in_tray) === 1,
  }))
}

/** Other findings that bear the same file name and have their content. */
export async function namesakesOf(db: Db, jobId: JobId, finding: { id: number; title: string }): Promise<FindingId[]> {
  const ids = await db('findings')
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where('findings.job_id', jobId)
    .where('findings.title', finding.title)
    .whereIn('findings.category', [...PICTURE_CATEGORIES])
    .whereNot('findings.id', finding.id)
    .whereNotNull('sightings.content')
    .limit(50)
    .pluck('findings.id')
  return ids.map(asId<FindingId>)
}
