import { contentStateOf } from '@lumbrin/core/categories/content-state'
import { type ContentState, RETRIABLE } from '@lumbrin/core/categories/content-states'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { Db } from '../database/connection.js'
import { storeContentStates } from '../database/content-states.js'
import { findSource } from '../database/sources.js'
import type { SightingDetail, TriedAgain } from '../domain/finding.js'
import type { FindingId, SourceId } from '../domain/ids.js'
import { recount } from './accounts.js'
import { forget } from './cached.js'
import { requireFinding } from './content.js'
import { startRead } from './sources.js'
import { forgetTree, treeOf } from './trees.js'

/**
 * Looks once more for the contents of one finding. What lies on this computer is looked at; what has to be fetched from a
 * device or the cloud, or was not to be had when its item was read, is read again. @throws AppError, SourceError where a source is locked or away
 */
export async function tryContentAgain(db: Db, findingId: FindingId): Promise<TriedAgain> {
  const finding = await requireFinding(db, findingId)
  const states = new Map<number, ContentState>()
  const toRead = new Set<SourceId>()
  for (const sighting of finding.sightings.filter(({ contentState }) => RETRIABLE.includes(contentState))) {
    await forgetTree(sighting.sourceId)
    const tree = await treeOf(db, sighting.sourceId)
    const state = await contentStateOf(tree, { category: finding.category, ...sighting } as unknown as Sighting)
    states.set(sighting.id, state)
    if (RETRIABLE.includes(state) && (await needsRead(db, sighting, state))) toRead.add(sighting.sourceId)
  }
  await storeContentStates(db, finding.jobId, states)
  await recount(db, finding.jobId, new Set(finding.sightings.map(({ sourceId }) => sourceId)))
  const reads: number[] = []
  for (const source of toRead)
    reads.push(await startRead(db, source, { categories: [finding.category], passes: ['live'], again: true }))
  forget(finding.jobId)
  return { had: [...states.values()].filter((state) => state === 'present').length, reads }
}

/** True where looking at the source is not enough: it has to be fetched, or the item did not learn of its content. */
async function needsRead(db: Db, { sourceId, content }: SightingDetail, state: ContentState): Promise<boolean> {
  const source = await findSource(db, sourceId)
  const elsewhere = source?.info.layout === 'collected' && source.info.kind !== 'image'
  return elsewhere || (content === null && state === 'unreadable')
}
