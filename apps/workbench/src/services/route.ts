import type { CategoryId } from '@lumbrin/core/categories/types'
import { type Answer, answerOf } from '@lumbrin/core/findings/answer'
import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import { routeOf } from '@lumbrin/core/findings/route'
import type { RouteSource, RouteStep } from '@lumbrin/core/findings/route-facts'
import type { Db } from '../database/connection.js'
import { listReads, listSources, type ReadRow, type SourceRow } from '../database/sources.js'
import { type Brief, lossOf } from './brief.js'
import { requireJob } from './jobs.js'
import { lockState } from './keyring.js'

/** What to do next in a job, and how far its brief is answered. */
export interface JobRoute {
  steps: RouteStep[]
  answer: { answer: Answer; why: string }
}

/** The route of a job; with `draft` as if its brief were that one. @throws AppError('not-found') */
export async function jobRoute(db: Db, jobId: number, draft?: Brief): Promise<JobRoute> {
  const brief = draft ?? (await requireJob(db, jobId)).brief
  const [sources, reads] = await Promise.all([listSources(db, jobId), listReads(db, jobId)])
  const matching = await matchingCounts(db, jobId)
  const told = sources.map((source) => routeSource(source, reads, brief.categories))
  return {
    steps: routeOf({
      now: Date.now(),
      categories: brief.categories,
      lost: lossOf(brief),
      device: brief.deviceState,
      syncing: brief.syncing === 'not known' ? null : brief.syncing === 'yes',
      sources: told,
      matching,
    }),
    answer: answerOf({
      whole: matching.binned + matching.earlier + matching.rebuilt,
      partial: matching.partial,
      unread: told.length === 0 || told.some((source) => !source.read),
    }),
  }
}

function routeSource(source: SourceRow, reads: readonly ReadRow[], wanted: readonly CategoryId[]): RouteSource {
  const steps = reads.filter((read) => read.sourceId === source.id).flatMap((read) => read.steps)
  const finished = (pass: string) => {
    const done = steps.filter((step) => step.pass === pass && step.finished).map((step) => step.category)
    return wanted.length > 0 ? wanted.every((id) => done.includes(id)) : done.length > 0
  }
  return {
    id: source.id,
    name: source.info.deviceName ?? source.path,
    takenAt: source.takenAt?.getTime() ?? null,
    encrypted: source.info.encrypted,
    locked: source.info.encrypted && lockState(source.id).state !== 'open',
    read: finished('live'),
    residueRead: finished('residue'),
  }
}

async function matchingCounts(db: Db, jobId: number) {
  const rows: { standing: string; count: number; days: number | null }[] = await db('findings')
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where({ 'findings.job_id': jobId })
    .where('match_score', '>=', MATCHES_FROM)
    .groupBy('standing')
    .select('standing')
    .count({ count: '*' })
    .min({ days: db.raw("CAST(JSON_VALUE(sightings.fields, '$.daysLeft') AS SIGNED)") })
  const count = (standing: string) => Number(rows.find((row) => row.standing === standing)?.count ?? 0)
  return {
    binned: count('binned'),
    leastDaysLeft: rows.find((row) => row.standing === 'binned')?.days ?? null,
    earlier: count('earlier'),
    rebuilt: count('rebuilt'),
    partial: count('partial'),
  }
}
