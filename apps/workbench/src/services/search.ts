import type { Db } from '../database/connection.js'
import { pageOfFindings } from '../database/pages.js'
import type { FindingFilter } from '../domain/filter.js'
import type { FindingLine } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'

export { daysOfMonth } from '../database/days.js'
export { pointsOf } from '../database/points.js'

/** Where a page begins: behind the last line of the one before. `afterId` undefined: the first page. */
interface After {
  afterId?: number | undefined
  afterWhen: string | null
  afterScore: number
  afterTitle: string
  afterBytes: number
}

/** A page of findings, by keyset pagination. */
export function pageOf(db: Db, jobId: JobId, query: FindingFilter & After): Promise<FindingLine[]> {
  const { afterId, afterWhen, afterScore, afterTitle, afterBytes, ...filter } = query
  const end = { when: afterWhen, score: afterScore, title: afterTitle, bytes: afterBytes }
  return pageOfFindings(db, jobId, filter, afterId === undefined ? null : { ...end, id: afterId })
}
