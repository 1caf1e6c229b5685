import type { Db } from '../database/connection.js'
import * as rows from '../database/joining.js'
import type { FindingId, SightingId } from '../domain/ids.js'
import { forget } from './cached.js'

/** Takes a sighting out of a finding that it does not belong to: it becomes a finding of its own, whose id comes back. */
export async function splitSighting(db: Db, sightingId: SightingId): Promise<FindingId> {
  const { id, jobId } = await rows.splitSighting(db, sightingId)
  forget(jobId)
  return id
}

/** Makes two findings one; later sources of either go to it. @throws AppError where they cannot be joined */
export async function joinFindings(db: Db, keptId: FindingId, otherId: FindingId): Promise<void> {
  forget(await rows.joinFindings(db, keptId, otherId))
}
