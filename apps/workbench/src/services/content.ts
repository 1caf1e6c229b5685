import { attachmentsOf } from '@lumbrin/core/categories/attachments'
import type { ByteSource } from '@lumbrin/core/io/source'
import type { Db } from '../database/connection.js'
import { type FindingDetail, findFinding } from '../database/queries.js'
import { AppError } from '../errors.js'
import { openContent } from './trees.js'

/** An open file of a source with its name and media type. Whoever gets it closes it. */
export interface OpenContent {
  source: ByteSource
  name: string
  mime: string
}

/** A finding with its sightings. @throws AppError('not-found') */
export async function requireFinding(db: Db, id: number): Promise<FindingDetail> {
  const finding = await findFinding(db, id)
  if (!finding) throw new AppError('not-found', 'There is no such finding.')
  return finding
}

/** The content of a finding's best copy. @throws AppError where there is none */
export async function openFindingContent(db: Db, id: number): Promise<OpenContent> {
  const finding = await requireFinding(db, id)
  const best = finding.sightings.find((sighting) => sighting.id === finding.bestSightingId)
  const source =
    best?.content && (await openContent(db, best.sourceId, best.content.domain, best.content.path, best.content.range))
  if (!best?.content || !source) throw new AppError('not-found', 'The content of this finding is not in its source.')
  return { source, name: best.content.name, mime: best.content.mime }
}

/** One attachment of a message, by its position from 0. @throws AppError where there is none */
export async function openAttachment(db: Db, id: number, index: number): Promise<OpenContent> {
  const finding = await requireFinding(db, id)
  const best = finding.sightings.find((sighting) => sighting.id === finding.bestSightingId)
  const attachment = best && attachmentsOf(best)[index]
  const source =
    best && attachment?.path ? await openContent(db, best.sourceId, attachment.domain, attachment.path) : undefined
  if (!source || !attachment) throw new AppError('not-found', 'This attachment is not in the source.')
  return { source, name: attachment.name, mime: attachment.mime }
}
