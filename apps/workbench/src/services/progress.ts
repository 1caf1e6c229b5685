import type { Db } from '../database/connection.js'
import { type HandoverRow, listHandovers } from '../database/handovers.js'
import { countFacets, type Facets } from '../database/queries.js'
import { listReads, type ReadRow } from '../database/sources.js'
import { summariseTray, type TrayLine } from '../database/tray.js'

/** Everything in a job that moves by itself. */
export interface JobProgress {
  reads: ReadRow[]
  handovers: HandoverRow[]
  facets: Facets
  tray: TrayLine[]
}

export async function jobProgress(db: Db, jobId: number): Promise<JobProgress> {
  const [reads, handovers, facets, tray] = await Promise.all([
    listReads(db, jobId),
    listHandovers(db, jobId),
    countFacets(db, jobId),
    summariseTray(db, jobId),
  ])
  return { reads, handovers, facets, tray }
}
