import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { ContentRef } from '@lumbrin/core/categories/types'
import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import { LOST_STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import type { LossWindow } from '@lumbrin/core/findings/window'
import type { Knex } from 'knex'
import type { FindingFilter } from '../domain/filter.js'
import type { ConversationLine, Facets, FindingDetail, FindingLine, SightingDetail } from '../domain/finding.js'
import { lostWith, withWhom } from '../domain/findings-query.js'
import type { FindingId, JobId } from '../domain/ids.js'
import { between, inPart, matchSearch, type SearchText, type WordsBy } from './conditions.js'
import type { Db } from './connection.js'
import { asId, parsed } from './json.js'
import type { FindingsTable, SightingsTable } from './tables.js'
import { findingsInTray, IN_TRAY, joinTray } from './tray-blocks.js'

/** All findings of a category, the newest first. */
export const allOf = (category: CategoryId): FindingFilter => ({
  category,
  standings: [],
  words: '',
  conversation: null,
  fromDay: null,
  toDay: null,
  zone: 'UTC',
  matching: false,
  inTray: false,
  compared: null,
  order: 'newest',
})

/** The findings of a filter, without order or end. */
export function filtered(db: Db, jobId: JobId, filter: FindingFilter, by: WordsBy = 'index'): Knex.QueryBuilder {
  const query = db('findings').where('findings.job_id', jobId).where('findings.category', filter.category)
  if (filter.standings.length > 0) query.whereIn('findings.standing', [...filter.standings])
  if (filter.conversation !== null) inConversation(query, filter.conversation)
  if (filter.matching) query.where('findings.match_score', '>=', MATCHES_FROM)
  if (filter.inTray) query.whereIn('findings.id', findingsInTray(db, jobId).select('findings.id'))
  if (filter.compared) inPart(query, filter.compared)
  between(query, filter.fromDay, filter.toDay, filter.zone)
  if (filter.words) matchSearch(query, jobId, { text: filter.words, zone: filter.zone }, by)
  return query
}

/** Messages of a conversation, or those with somebody whose conversation is lost. */
function inConversation(query: Knex.QueryBuilder, conversation: string): void {
  const name = lostWith(conversation)
  if (name === undefined) query.where('findings.conversation', conversation)
  else query.where({ 'findings.conversation': '', 'findings.title': name })
}

/** A finding with its best sighting, and whether it lies in the tray. */
type LineRow = FindingsTable & Pick<SightingsTable, 'fields' | 'content'> & { in_tray: unknown }

export function toLine(raw: LineRow): FindingLine {
  const content = parsed<ContentRef | null>(raw.content)
  return {
    id: asId(raw.id),
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

export async function countFacets(db: Db, jobId: JobId, search?: SearchText): Promise<Facets> {
  const query = db('findings')
    .where({ job_id: jobId })
    .groupBy('category', 'standing')
    .count({ count: '*' })
    .select('category', 'standing')
  if (search?.text) matchSearch(query, jobId, search)
  const facets: Facets = {}
  for (const row of (await query) as { category: CategoryId; standing: Standing; count: number }[])
    facets[row.category] = { ...facets[row.category], [row.standing]: Number(row.count) }
  return facets
}

/** True for findings that are gone from the device, or about to go. */
export const IS_LOST = `findings.standing IN (${LOST_STANDINGS.map((standing) => `'${standing}'`).join(', ')})`

export async function listConversations(db: Db, jobId: JobId, filter: FindingFilter): Promise<ConversationLine[]> {
  const rows: (ConversationCounts & { conversation: string })[] = await filtered(db, jobId, {
    ...filter,
    conversation: null,
  })
    .groupBy('conversation')
    .select('conversation')
    .max({ last: 'happened_at' })
    .count({ total: '*' })
    .sum({ lost: db.raw(IS_LOST) })
    .orderBy('last', 'desc')
  const known = rows.filter(({ conversation }) => conversation !== '')
  const titles = await titlesOf(db, jobId, filter.category, known)
  const lost = known.length < rows.length ? await lostConversations(db, jobId, filter) : []
  return [
    ...known.map(({ conversation, ...counts }) => lineOf(conversation, titles.get(conversation) ?? '', counts)),
    ...lost.map(({ title, ...counts }) => lineOf(withWhom(title), title, counts)),
  ]
}

interface ConversationCounts {
  total: number
  lost: number
  last: Date | null
}

const lineOf = (key: string, title: string, { total, lost, last }: ConversationCounts): ConversationLine => ({
  key,
  title,
  total: Number(total),
  lost: Number(lost),
  lastAt: last?.toISOString() ?? null,
})

/** Messages whose conversation is lost, under the names of those they were with. */
const lostConversations = (
  db: Db,
  jobId: JobId,
  filter: FindingFilter,
): Promise<(ConversationCounts & { title: string })[]> =>
  filtered(db, jobId, { ...filter, conversation: null })
    .where('findings.conversation', '')
    .groupBy('title')
    .select('title')
    .max({ last: 'happened_at' })
    .count({ total: '*' })
    .sum({ lost: db.raw(IS_LOST) })
    .orderBy('last', 'desc')

/** The names of conversations: of each from a single row, so that the counting needs the index alone. */
async function titlesOf(
  db: Db,
  jobId: JobId,
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

export async function findFinding(db: Db, id: FindingId): Promise<FindingDetail | undefined> {
  const raw = await joinTray(db, db('findings'))
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where('findings.id', id)
    .first('findings.*', 'sightings.fields', 'sightings.content', db.raw(IN_TRAY))
  if (!raw) return undefined
  const sightings = await db('sightings').where({ finding_id: id }).orderBy('id')
  return {
    ...toLine(raw),
    jobId: raw.job_id,
    bestSightingId: asId(raw.best_sighting_id),
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

const toSighting = (raw: SightingsTable, identity: string): SightingDetail => ({
  id: asId(raw.id),
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
  if (strong !== null) return strong === identity ? 'id' : 'hand'
  return likeness !== null && likeness !== identity ? 'likeness' : 'alone'
}

/** Findings that match the brief by standing: how many, of how many the content cannot be had, and when the first went into the bin since a moment. */
export async function countMatching(
  db: Db,
  jobId: JobId,
  binnedSince: Date,
): Promise<{ standing: string; count: number; lacking: number; last: Date | null }[]> {
  return db('findings')
    .where({ job_id: jobId })
    .where('match_score', '>=', MATCHES_FROM)
    .groupBy('standing')
    .select('standing')
    .count({ count: '*' })
    .sum({ lacking: db.raw("content_state NOT IN ('none', 'present', 'awaited')") })
    .min({ last: db.raw('IF(binned_at > ?, binned_at, NULL)', [binnedSince]) })
}
