import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { bestMatches, countMatches } from '../database/answers.js'
import type { Db } from '../database/connection.js'
import { countFacets } from '../database/queries.js'
import { findSource } from '../database/sources.js'
import type { JobAnswer, MatchKind } from '../domain/answer.js'
import { type Brief, lossOf } from '../domain/brief.js'
import type { FindingsQuery } from '../domain/findings-query.js'
import type { JobId, SourceId } from '../domain/ids.js'
import type { Job } from '../domain/job.js'
import { sourceName } from '../domain/labels.js'
import type { JobRoute } from '../domain/route.js'
import { requireJob } from './jobs.js'
import { jobRoute } from './route.js'

// What is looked at on the first page; all of it is a click away in Findings, and all of it is counted.
const SHOWN_CATEGORIES = 5
const BEST = 8

/** What a job says of its brief. @throws AppError('not-found') */
export async function jobAnswer(db: Db, jobId: JobId): Promise<JobAnswer> {
  const job = await requireJob(db, jobId)
  const { brief } = job
  const [route, matches] = await Promise.all([jobRoute(db, jobId), matchesOf(db, jobId, brief, 'gone')])
  return { route, matches, before: await beforeLoss(db, job, route) }
}

async function matchesOf(
  db: Db,
  jobId: JobId,
  brief: Brief,
  kind: MatchKind,
  most = BEST,
): Promise<JobAnswer['matches']> {
  const place = ({ category }: { category: CategoryId }) => {
    const at = brief.categories.indexOf(category)
    return at < 0 ? brief.categories.length : at
  }
  const counts = await countMatches(db, jobId, kind)
  counts.sort((a, b) => place(a) - place(b) || b.count - a.count)
  return Promise.all(
    counts.map(async (one, i) => ({
      ...one,
      best: i < SHOWN_CATEGORIES ? await bestMatches(db, jobId, kind, one.category, most) : [],
    })),
  )
}

/** What Findings opens on: what the brief asks for, lost first, as far as there is any. */
export async function openingView(db: Db, { id, brief }: Job): Promise<Partial<FindingsQuery>> {
  const [gone] = await matchesOf(db, id, brief, 'gone', 0)
  if (gone) return { category: gone.category, standings: [...LOST_STANDINGS], matching: true }
  const facets = await countFacets(db, id)
  const category = brief.categories.find((one) => facets[one]) ?? CATEGORY_IDS.find((one) => facets[one])
  if (!category) return {}
  const lost = LOST_STANDINGS.some((standing) => facets[category]?.[standing])
  return { category, standings: lost ? [...LOST_STANDINGS] : [] }
}

/** What matches in the newest state of the brief's device, if that was taken before the loss was over. */
async function beforeLoss(db: Db, job: Job, route: JobRoute): Promise<JobAnswer['before']> {
  const loss = lossOf(job.brief, job.timeZone)
  const id = route.newestSourceId as SourceId | null
  const source = id === null ? undefined : await findSource(db, id)
  if (!loss || !source?.takenAt || source.takenAt.getTime() > (loss.to ?? Number.POSITIVE_INFINITY)) return null
  return {
    source: sourceName(source.info),
    day: dayIn(source.takenAt, job.timeZone),
    matches: await matchesOf(db, job.id, job.brief, 'kept'),
  }
}
