import { matchOf } from '@lumbrin/core/findings/match'
import type { Db } from '../database/connection.js'
import { soughtOf } from '../domain/brief.js'
import type { ExplainedFinding } from '../domain/finding.js'
import type { FindingId } from '../domain/ids.js'
import { requireFinding } from './content.js'
import { requireJob } from './jobs.js'

/** Everything that is known of a finding. @throws AppError('not-found') */
export async function explainFinding(db: Db, id: FindingId): Promise<ExplainedFinding> {
  const finding = await requireFinding(db, id)
  const job = await requireJob(db, finding.jobId)
  return {
    ...finding,
    match: matchOf(soughtOf(job.brief, job.timeZone), { ...finding, window: finding.window ?? undefined }),
  }
}
