import { revealSecret } from '@lumbrin/core/categories/credentials/index'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { AppError } from '../domain/errors.js'
import type { FindingId } from '../domain/ids.js'
import { requireFinding } from './content.js'
import { treeOf } from './trees.js'

/** Opens one saved password, on purpose; that it was done is logged, and nothing is kept. @throws AppError */
export async function revealPassword(db: Db, findingId: FindingId): Promise<string> {
  const finding = await requireFinding(db, findingId)
  const best = finding.sightings.find((sighting) => sighting.id === finding.bestSightingId)
  const place = best?.fields.secretAt
  if (!best || typeof place !== 'string') throw new AppError('not-found', 'This finding holds no password.')
  const secret = await revealSecret(await treeOf(db, best.sourceId), place)
  if (secret === undefined)
    throw new AppError('unusable', 'The password does not open. Unlock its source again under Sources, then retry.')
  await appendLog(db, finding.jobId, 'Password revealed', `${finding.title}, ${finding.text ?? 'no account'}`)
  return secret
}
