import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import { LOST_STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import type { Knex } from 'knex'
import type { MatchKind } from '../domain/answer.js'
import type { FindingLine } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { pageOfFindings } from './pages.js'
import { allOf } from './queries.js'
import { findingsInTray } from './tray-blocks.js'

/** Matches that are gone from the device, or those that its newest state shows still. */
export const MATCHES: Record<MatchKind, readonly Standing[]> = { gone: LOST_STANDINGS, kept: ['kept'] }

const matching = (query: Knex.QueryBuilder, kind: MatchKind): Knex.QueryBuilder =>
  query.where('findings.match_score', '>=', MATCHES_FROM).whereIn('findings.standing', [...MATCHES[kind]])

/** Findings that match the brief. */
export const matchesIn = (db: Db, jobId: JobId, kind: MatchKind): Knex.QueryBuilder =>
  // Each category is a stretch of the index of matches.
  matching(
    db('findings')
      .where('findings.job_id', jobId)
      .whereIn('findings.category', [...CATEGORY_IDS]),
    kind,
  )

/** The same by category: how many, and how many of them lie in the tray. */
export async function countMatches(
  db: Db,
  jobId: JobId,
  kind: MatchKind,
): Promise<{ category: CategoryId; count: number; inTray: number }[]> {
  const counted = (query: Knex.QueryBuilder): Promise<{ category: CategoryId; count: number }[]> =>
    query.groupBy('category').select('category').count({ count: '*' })
  const [all, chosen] = await Promise.all([
    counted(matchesIn(db, jobId, kind)),
    counted(matching(findingsInTray(db, jobId), kind)),
  ])
  return all.map(({ category, count }) => ({
    category,
    count: Number(count),
    inTray: Number(chosen.find((one) => one.category === category)?.count ?? 0),
  }))
}

/** The strongest of them in a category. */
export function bestMatches(
  db: Db,
  jobId: JobId,
  kind: MatchKind,
  category: CategoryId,
  most: number,
): Promise<FindingLine[]> {
  const filter = { ...allOf(category), standings: [...MATCHES[kind]], matching: true, order: 'match' as const }
  return pageOfFindings(db, jobId, filter, null, most)
}
