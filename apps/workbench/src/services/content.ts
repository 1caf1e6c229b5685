import { attachmentsOf } from '@lumbrin/core/categories/attachments'
import type { ContentRef } from '@lumbrin/core/categories/types'
import { FormatError, SourceError } from '@lumbrin/core/io/errors'
import type { ByteSource } from '@lumbrin/core/io/source'
import type { Db } from '../database/connection.js'
import { findFinding } from '../database/queries.js'
import { AppError } from '../domain/errors.js'
import type { FindingDetail, SightingDetail } from '../domain/finding.js'
import type { FindingId } from '../domain/ids.js'
import { openContent } from './trees.js'

/** An open file of a source with its name and media type. Whoever gets it closes it. */
export interface OpenContent {
  source: ByteSource
  name: string
  mime: string
}

/** A finding with its sightings. @throws AppError('not-found') */
export async function requireFinding(db: Db, id: FindingId): Promise<FindingDetail> {
  const finding = await findFinding(db, id)
  if (!finding) throw new AppError('not-found', 'There is no such finding.')
  return finding
}

type Place = Pick<ContentRef, 'name' | 'mime' | 'domain' | 'path' | 'range'>

/** The content of a finding: of its best copy, else of the first other one that can be opened. @throws AppError */
export async function openFindingContent(db: Db, id: FindingId): Promise<OpenContent> {
  const opened = await openFirst(db, await requireFinding(db, id), ({ content }) => content)
  if (!opened) throw new AppError('not-found', 'No source of this job holds the content of this finding.')
  return opened
}

/** One attachment of a message, by its position from 0. @throws AppError where there is none */
export async function openAttachment(db: Db, id: FindingId, index: number): Promise<OpenContent> {
  const opened = await openFirst(db, await requireFinding(db, id), (sighting) => {
    const attachment = attachmentsOf(sighting)[index]
    return attachment?.path == null ? null : { ...attachment, path: attachment.path }
  })
  if (!opened) throw new AppError('not-found', 'No source of this job holds this attachment.')
  return opened
}

async function openFirst(
  db: Db,
  { bestSightingId, sightings }: FindingDetail,
  placeIn: (sighting: SightingDetail) => Place | null,
): Promise<OpenContent | undefined> {
  const isBest = ({ id }: SightingDetail) => (id === bestSightingId ? 0 : 1)
  let problem: unknown
  for (const sighting of [...sightings].sort((a, b) => isBest(a) - isBest(b))) {
    const place = placeIn(sighting)
    if (!place) continue
    try {
      const source = await openContent(db, sighting.sourceId, place.domain, place.path, place.range)
      if (source) return { source, name: place.name, mime: place.mime }
    } catch (thrown) {
      // A source that is locked or away, a file that cannot be read: another one may have it.
      if (!(thrown instanceof SourceError || thrown instanceof FormatError || thrown instanceof AppError)) throw thrown
      problem ??= thrown
    }
  }
  if (problem !== undefined) throw problem
  return undefined
}
