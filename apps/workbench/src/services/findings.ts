import { type MatchReason, matchOf } from '@lumbrin/core/findings/match'
import type { Db } from '../database/connection.js'
import type { FindingDetail } from '../database/queries.js'
import { soughtOf } from './brief.js'
import { requireFinding } from './content.js'
import { requireJob } from './jobs.js'

/** A finding with what it matches of the brief. */
export interface ExplainedFinding extends FindingDetail {
  match: { score: number; reasons: MatchReason[] }
}

/** Everything that is known of a finding. @throws AppError('not-found') */
export async function explainFinding(db: Db, id: number): Promise<ExplainedFinding> {
  const finding = await requireFinding(db, id)
  const job = await requireJob(db, finding.jobId)
  return { ...finding, match: matchOf(soughtOf(job.brief), { ...finding, window: finding.window ?? undefined }) }
}
