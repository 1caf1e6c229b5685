import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { CategoryId, Condition, ContentRef, Json, Origin } from '@lumbrin/core/categories/types'
import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import { LOST_STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import type { LossWindow } from '@lumbrin/core/findings/window'
import type { Knex } from 'knex'
import { between, type Compared, inPart, matchSearch, type WordsBy } from './conditions.js'
import type { Db } from './connection.js'
import { parsed } from './json.js'
import { IN_TRAY, joinTray } from './tray-blocks.js'

/** What the Findings view asks for. */
export interface FindingFilter {
  category: CategoryId
  standings: readonly Standing[]
  words: string
  conversation: string | null
  /** Days, both included; null: open. */
  fromDay: string | null
  toDay: string | null
  /** Only those that match the brief. */
  matching: boolean
  /** Only those in which two sources differ, or agree; null: all. */
  compared: Compared | null
  order: Order
}

/** `match`: the best match with the brief first, then the newest. Titles go from A, sizes from the largest. */
export const ORDERS = ['newest', 'oldest', 'match', 'title', 'largest'] as const
export type Order = (typeof ORDERS)[number]

/** All findings of a category, the newest first. */
export const allOf = (category: CategoryId): FindingFilter => ({
  category,
  standings: [],
  words: '',
  conversation: null,
  fromDay: null,
  toDay: null,
  matching: false,
  compared: null,
  order: 'newest',
})

/** A finding in a list. */
export interface FindingLine {
  id: number
  category: CategoryId
  standing: Standing
  when: string | null
  title: string
  text: string | null
  conversation: string
  bytes: number
  inTray: boolean
  fields: { [key: string]: Json }
  hasContent: boolean
  /** Whether its content can be had. */
  contentState: ContentState
  mime: string | null
  matchScore: number
  /** When it was put into the bin that it is in; null: it is in none, or that is not known. */
  binnedAt: string | null
}

/** The findings of a filter, without order or end. */
export function filtered(db: Db, jobId: number, filter: FindingFilter, by: WordsBy = 'index'): Knex.QueryBuilder {
  const query = db('findings').where({ 'findings.job_id': jobId, 'findings.category': filter.category })
  if (filter.standings.length > 0) query.whereIn('findings.standing', [...filter.standings])
  if (filter.conversation !== null) query.where('findings.conversation', filter.conversation)
  if (filter.matching) query.where('findings.match_score', '>=', MATCHES_FROM)
  if (filter.compared) inPart(query, filter.compared)
  between(query, filter.fromDay, filter.toDay)
  if (filter.words) matchSearch(query, jobId, filter.words, by)
  return query
}

// biome-ignore lint/suspicious/noExplicitAny: rows of the database are shaped by the migrations beside this file
export function toLine(raw: any): FindingLine {
  const content = parsed<ContentRef | null>(raw.content)
  return {
    id: Number(raw.id),
    category: raw.category,
    standing: raw.standing,
    when: raw.happened_at?.toISOString() ?? null,
    title: raw.title,
    text: raw.text,
    conversation: raw.conversation,
    bytes: Number(raw.bytes),
    inTray: Number(raw.in_tray) === 1,
    fields: parsed(raw.fields),
    hasContent: content !== null,
    contentState: raw.content_state,
    binnedAt: raw.binned_at?.toISOString() ?? null,
    mime: content?.mime ?? null,
    matchScore: Number(raw.match_score),
  }
}

/** How many findings there are, by category and standing. */
export type Facets = Partial<Record<CategoryId, Partial<Record<Standing, number>>>>

export async function countFacets(db: Db, jobId: number, words = ''): Promise<Facets> {
  const query = db('findings')
    .where({ job_id: jobId })
    .groupBy('category', 'standing')
    .count({ count: '*' })
    .select('category', 'standing')
  if (words) matchSearch(query, jobId, words)
  const facets: Facets = {}
  for (const row of (await query) as { category: CategoryId; standing: Standing; count: number }[])
    facets[row.category] = { ...facets[row.category], [row.standing]: Number(row.count) }
  return facets
}

/** True for findings that are gone from the device, or about to go. */
export const IS_LOST = `findings.standing IN (${LOST_STANDINGS.map((standing) => `'${standing}'`).join(', ')})`

/** A conversation with its counts. `key` is empty for messages whose conversation was lost. */
export interface ConversationLine {
  key: string
  title: string
  total: number
  lost: number
  lastAt: string | null
}

export async function listConversations(db: Db, jobId: number, filter: FindingFilter): Promise<ConversationLine[]> {
  const rows: { conversation: string; total: number; lost: number; last: Date | null }[] = await filtered(db, jobId, {
    ...filter,
    conversation: null,
  })
    .groupBy('conversation')
    .select('conversation')
    .max({ last: 'happened_at' })
    .count({ total: '*' })
    .sum({ lost: db.raw(IS_LOST) })
    .orderBy('last', 'desc')
  const titles = await titlesOf(db, jobId, filter.category, rows)
  return rows.map((row) => ({
    key: row.conversation,
    title: titles.get(row.conversation) ?? '',
    total: Number(row.total),
    lost: Number(row.lost),
    lastAt: row.last?.toISOString() ?? null,
  }))
}

/** The names of conversations: of each from a single row, so that the counting needs the index alone. */
async function titlesOf(
  db: Db,
  jobId: number,
  category: CategoryId,
  rows: readonly { conversation: string }[],
): Promise<Map<string, string>> {
  const titles = new Map<string, string>()
  for (let at = 0; at < rows.length; at += TITLES_AT_ONCE) {
    const keys = rows.slice(at, at + TITLES_AT_ONCE).map((row) => row.conversation)
    const one = `(SELECT ? AS conversation, (SELECT conversation_title FROM findings WHERE job_id = ? AND category = ? AND conversation = ?
      ORDER BY happened_at DESC, id DESC LIMIT 1) AS title)`
    const [found] = await db.raw(
      keys.map(() => one).join(' UNION ALL '),
      keys.flatMap((key) => [key, jobId, category, key]),
    )
    for (const { conversation, title } of found) titles.set(conversation, title ?? '')
  }
  return titles
}

const TITLES_AT_ONCE = 200

/** One sighting of a finding, for the inspector. */
export interface SightingDetail {
  id: number
  sourceId: number
  condition: Condition
  fields: { [key: string]: Json }
  content: ContentRef | null
  contentState: ContentState
  origin: Origin
  missing: string[]
  confidence: number
  /** Equal for sightings that say the same. */
  version: string | null
  /** By what it became part of its finding. */
  joinedBy: 'its own id' | 'what it is like' | 'hand' | 'nothing else'
}

export interface FindingDetail extends FindingLine {
  jobId: number
  sightings: SightingDetail[]
  bestSightingId: number
  /** When it went, as far as the sources tell; null: no state says that it is gone. */
  window: LossWindow | null
}

export async function findFinding(db: Db, id: number): Promise<FindingDetail | undefined> {
  const raw = await joinTray(db, db('findings'))
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where('findings.id', id)
    .first('findings.*', 'sightings.fields', 'sightings.content', db.raw(IN_TRAY))
  if (!raw) return undefined
  const sightings = await db('sightings').where({ finding_id: id }).orderBy('id')
  return {
    ...toLine(raw),
    jobId: raw.job_id,
    bestSightingId: Number(raw.best_sighting_id),
    window: windowOf(raw),
    sightings: sightings.map((one) => toSighting(one, raw.identity)),
  }
}

function windowOf({
  lost_after,
  lost_before,
}: {
  lost_after: Date | null
  lost_before: Date | null
}): LossWindow | null {
  if (!lost_after && !lost_before) return null
  return { from: lost_after?.getTime() ?? null, to: lost_before?.getTime() ?? null }
}

// biome-ignore lint/suspicious/noExplicitAny: as above
const toSighting = (raw: any, identity: string): SightingDetail => ({
  id: Number(raw.id),
  sourceId: raw.source_id,
  condition: raw.condition,
  fields: parsed(raw.fields),
  content: parsed(raw.content),
  contentState: raw.content_state,
  origin: parsed(raw.origin),
  missing: parsed(raw.missing),
  confidence: raw.confidence,
  version: raw.version,
  joinedBy: joinedBy(raw, identity),
})

function joinedBy(
  { strong, likeness }: { strong: string | null; likeness: string | null },
  identity: string,
): SightingDetail['joinedBy'] {
  if (strong !== null) return strong === identity ? 'its own id' : 'hand'
  return likeness !== null && likeness !== identity ? 'what it is like' : 'nothing else'
}
