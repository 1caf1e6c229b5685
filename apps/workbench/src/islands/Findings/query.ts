import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/types'
import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'

/** What the Findings view shows; it stands in the address, so that reload and back lose nothing. */
export interface FindingsQuery {
  category: CategoryId
  standings: Standing[]
  words: string
  /** Null: no conversation is open. Empty: the one of messages whose conversation was lost. */
  conversation: string | null
  layout: 'conversations' | 'list'
  /** Days between which findings lie, both included. */
  fromDay: string | null
  toDay: string | null
  /** Only what matches the brief, the best match first. */
  matching: boolean
}

const isOneOf = <T extends string>(list: readonly T[], value: string | null): value is T => list.includes(value as T)

const dayOf = (text: string | null) => (text && /^\d{4}-\d{2}-\d{2}$/.test(text) ? text : null)

/** Reads the view's state from an address; what makes no sense there is passed over. */
export function fromAddress(search: string): FindingsQuery {
  const parameters = new URLSearchParams(search)
  const category = parameters.get('category')
  return {
    category: isOneOf(CATEGORY_IDS, category) ? category : 'photos',
    standings: (parameters.get('standings') ?? '')
      .split(',')
      .filter((value): value is Standing => isOneOf(STANDINGS, value)),
    words: parameters.get('words') ?? '',
    conversation: parameters.get('conversation'),
    layout: parameters.get('layout') === 'list' ? 'list' : 'conversations',
    fromDay: dayOf(parameters.get('fromDay')),
    toDay: dayOf(parameters.get('toDay')),
    matching: parameters.get('matching') === 'true',
  }
}

/** The view's state as an address. */
export function toAddress(query: FindingsQuery): string {
  const parameters = new URLSearchParams({ category: query.category })
  if (query.standings.length > 0) parameters.set('standings', query.standings.join(','))
  if (query.words) parameters.set('words', query.words)
  if (query.conversation !== null) parameters.set('conversation', query.conversation)
  if (query.fromDay) parameters.set('fromDay', query.fromDay)
  if (query.toDay) parameters.set('toDay', query.toDay)
  if (query.matching) parameters.set('matching', 'true')
  if (query.layout === 'list') parameters.set('layout', 'list')
  return `?${parameters}`
}
