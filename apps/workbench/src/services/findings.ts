import { type MatchReason, matchOf } from '@lumbrin/core/findings/match'
import { type LossWindow, lossWindow } from '@lumbrin/core/findings/window'
import type { Db } from '../database/connection.js'
import type { FindingDetail } from '../database/queries.js'
import { listSources } from '../database/sources.js'
import { countingSources } from '../database/standings.js'
import { soughtOf } from './brief.js'
import { requireFinding } from './content.js'
import { requireJob } from './jobs.js'

/** A finding with what follows from all sources of its job together. */
export interface ExplainedFinding extends FindingDetail {
  window: LossWindow | null
  match: { score: number; reasons: MatchReason[] }
}

/** Everything that is known of a finding. @throws AppError('not-found') */
export async function explainFinding(db: Db, id: number): Promise<ExplainedFinding> {
  const finding = await requireFinding(db, id)
  const [job, sources, counting] = await Promise.all([
    requireJob(db, finding.jobId),
    listSources(db, finding.jobId),
    countingSources(db, finding.jobId, finding.category),
  ])
  const takenAt = new Map(sources.map((source) => [source.id, source.takenAt?.getTime() ?? null]))
  const seen = finding.sightings.map(({ condition, sourceId }) => ({
    condition,
    sourceTakenAt: takenAt.get(sourceId) ?? null,
  }))
  const dates = counting.flatMap((source) => (source.counts && source.takenAt !== null ? [source.takenAt] : []))
  const window = lossWindow(seen, dates)
  return { ...finding, window: window ?? null, match: matchOf(soughtOf(job.brief), { ...finding, window }) }
}
