import { placesOf } from '@lumbrin/core/categories/content-state'
import { type ContentState, RETRIABLE } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { JobId, SourceId } from '../domain/ids.js'
import { lockCategory } from './category-lock.js'
import { type Db, transactLatest } from './connection.js'
import { parsed } from './json.js'
import { restand } from './standings.js'

/** A sighting whose content could not be had so far. */
export interface AwaitedContent {
  id: number
  sighting: Sighting
}

export const placeKey = ({ domain, path }: { domain: string; path: string }): string => `${domain}\0${path}`

/** Sightings of a source whose contents another try may bring, by the places of their files. */
export async function awaitedContents(
  db: Db,
  sourceId: SourceId,
  categories: readonly CategoryId[],
): Promise<Map<string, AwaitedContent[]>> {
  const byPlace = new Map<string, AwaitedContent[]>()
  const rows = await db('sightings')
    .where({ source_id: sourceId })
    .whereIn('category', [...categories])
    .whereIn('content_state', [...RETRIABLE])
    .select('id', 'category', 'fields', 'content')
  for (const row of rows) {
    const sighting = {
      category: row.category,
      fields: parsed(row.fields),
      content: row.content && parsed(row.content),
    } as Sighting
    const one = { id: Number(row.id), sighting }
    for (const place of placesOf(sighting)) {
      if (!place) continue
      const known = byPlace.get(placeKey(place))
      if (known) known.push(one)
      else byPlace.set(placeKey(place), [one])
    }
  }
  return byPlace
}

const CHUNK = 1000

/** Keeps what can be had of contents, and works out again what is claimed of their findings. */
export async function storeContentStates(
  db: Db,
  jobId: JobId,
  states: ReadonlyMap<number, ContentState>,
): Promise<void> {
  const all = [...states]
  for (let at = 0; at < all.length; at += CHUNK) {
    const some = all.slice(at, at + CHUNK)
    const ids = some.map(([id]) => id)
    await transactLatest(db, async (trx) => {
      const categories = await trx('sightings')
        .whereIn('id', ids)
        .distinct('category')
        .orderBy('category')
        .pluck('category')
      for (const category of categories) await lockCategory(trx, jobId, category)
      const byState = new Map<ContentState, number[]>()
      for (const [id, state] of some) byState.set(state, [...(byState.get(state) ?? []), id])
      for (const [state, of] of byState) await trx('sightings').whereIn('id', of).update({ content_state: state })
      for (const category of categories) {
        const findings = await trx('sightings')
          .whereIn('id', ids)
          .where({ category })
          .distinct('finding_id')
          .pluck('finding_id')
        await restand(trx, jobId, category, findings.map(Number))
      }
    })
  }
}

/** How many sightings of each step of a source have which content. */
export async function countContents(
  db: Db,
  sourceId: SourceId,
): Promise<Map<string, { [state in ContentState]?: number }>> {
  const rows: { category: string; pass: string; content_state: ContentState; count: number }[] = await db('sightings')
    .where({ source_id: sourceId })
    .groupBy('category', 'pass', 'content_state')
    .select('category', 'pass', 'content_state')
    .count({ count: '*' })
  const counts = new Map<string, { [state in ContentState]?: number }>()
  for (const { category, pass, content_state, count } of rows) {
    const key = `${category}/${pass}`
    counts.set(key, { ...counts.get(key), [content_state]: Number(count) })
  }
  return counts
}
