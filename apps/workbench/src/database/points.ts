import type { Standing } from '@lumbrin/core/findings/standing'
import type { FindingFilter } from '../domain/filter.js'
import type { Point, Points } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { filtered } from './queries.js'

// What a map can show, and a browser take in.
const MOST_POINTS = 20_000

/** The findings of a filter that have a place on Earth, the newest first. */
export async function pointsOf(db: Db, jobId: JobId, filter: FindingFilter): Promise<Points> {
  const degrees = (name: string) => db.raw(`JSON_VALUE(sightings.fields, '$.${name}') AS ${name}`)
  const rows = await filtered(db, jobId, filter)
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .whereRaw("JSON_VALUE(sightings.fields, '$.latitude') IS NOT NULL")
    .orderBy('findings.happened_at', 'desc')
    .limit(MOST_POINTS + 1)
    .select('findings.id', 'findings.standing', 'findings.title', degrees('latitude'), degrees('longitude'))
  const points = rows
    .map((row: Record<string, unknown>) => ({
      id: Number(row.id),
      latitude: Number(row.latitude),
      longitude: Number(row.longitude),
      standing: row.standing as Standing,
      title: String(row.title),
    }))
    .filter((point: Point) => Math.abs(point.latitude) <= 90 && Math.abs(point.longitude) <= 180)
  return { points: points.slice(0, MOST_POINTS), more: rows.length > MOST_POINTS }
}
