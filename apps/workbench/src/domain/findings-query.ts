import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import { LAYOUTS, type Layout, layoutsOf } from './layouts.js'

/** Orders of a list; what matches the brief has one of its own, the best match first. */
export const SORT_ORDERS = ['newest', 'oldest', 'title', 'largest'] as const
export const ORDERS = [...SORT_ORDERS, 'match'] as const
export type SortOrder = (typeof SORT_ORDERS)[number]
export type Order = (typeof ORDERS)[number]

/** Findings of one page of a list; fewer come only at its end, or where a search shows what it has found so far. */
export const PAGE_SIZE = 200
/** A search shows so many once it has them, and looks for further ones when these are asked for. */
export const SHORTEST_PAGE = 50

/** Whether a page with so many findings is the last of its list. */
export const isLastPage = (length: number, words: string): boolean =>
  length < (words === '' ? PAGE_SIZE : SHORTEST_PAGE)

/** How large the tiles of a grid are. */
export const TILES = ['small', 'medium', 'large'] as const
export type Tiles = (typeof TILES)[number]

/** What the Findings view shows; it stands in the address, so that reload and back lose nothing. */
export interface FindingsQuery {
  category: CategoryId
  standings: Standing[]
  words: string
  /** Null: no conversation is open. Messages whose conversation was lost: `withWhom`. */
  conversation: string | null
  /** Null: the category's usual one. */
  layout: Layout | null
  /** Of lists; what matches the brief has an order of its own. */
  order: SortOrder
  /** Of the layout by days, as 2026-05; null: the newest that holds anything. */
  month: string | null
  /** Days between which findings lie, both included. */
  fromDay: string | null
  toDay: string | null
  /** Where days begin and end (IANA): the job's zone. It does not stand in the address. */
  zone: string
  /** Only what matches the brief, the best match first. */
  matching: boolean
  /** Only what lies in the tray. */
  inTray: boolean
  /** Only what two sources differ in, as `12,15,wiped`; null: all. */
  compared: string | null
  /** Of grids. */
  tiles: Tiles
  /** Of grids: pictures that look like one before them lie under it. */
  folding: boolean
  /** The finding that is looked at, by its id. */
  finding: number | null
}

const LOST_WITH = '?with:'

/** By which messages with somebody are asked for whose conversation is lost. */
export const withWhom = (name: string): string => `${LOST_WITH}${name}`

/** With whom a conversation was that is lost; undefined: it is not. */
export const lostWith = (conversation: string): string | undefined =>
  conversation.startsWith(LOST_WITH) ? conversation.slice(LOST_WITH.length) : undefined

const isOneOf = <T extends string>(list: readonly T[], value: string | null): value is T => list.includes(value as T)

const dayOf = (text: string | null) => (text && /^\d{4}-\d{2}-\d{2}$/.test(text) ? text : null)

/** Reads the view's state from an address; what makes no sense there is passed over. `zone`: the job's. */
export function fromAddress(search: string, zone = 'UTC'): FindingsQuery {
  const parameters = new URLSearchParams(search)
  const category = parameters.get('category')
  const layout = parameters.get('layout')
  const order = parameters.get('order')
  const month = parameters.get('month')
  const tiles = parameters.get('tiles')
  return {
    category: isOneOf(CATEGORY_IDS, category) ? category : 'photos',
    standings: (parameters.get('standings') ?? '')
      .split(',')
      .filter((value): value is Standing => isOneOf(STANDINGS, value)),
    words: parameters.get('words') ?? '',
    conversation: parameters.get('conversation'),
    layout: isOneOf(LAYOUTS, layout) ? layout : null,
    order: isOneOf(SORT_ORDERS, order) ? order : 'newest',
    month: month && /^\d{4}-(0[1-9]|1[0-2])$/.test(month) ? month : null,
    fromDay: dayOf(parameters.get('fromDay')),
    toDay: dayOf(parameters.get('toDay')),
    zone,
    matching: parameters.get('matching') === 'true',
    inTray: parameters.get('inTray') === 'true',
    compared: /^\d+,\d+,(comes-back|wiped|changed|both)$/.exec(parameters.get('compared') ?? '')?.[0] ?? null,
    tiles: isOneOf(TILES, tiles) ? tiles : 'medium',
    folding: parameters.get('folding') === 'true',
    finding: Number(parameters.get('finding')) || null,
  }
}

/** Which findings the view shows, as endpoints ask for them; how it lays them out is left away. */
export const filterOf = (query: FindingsQuery) => ({
  category: query.category,
  standings: query.standings.join(','),
  words: query.words,
  conversation: query.conversation,
  fromDay: query.fromDay,
  toDay: query.toDay,
  zone: query.zone,
  matching: String(query.matching),
  inTray: String(query.inTray),
  compared: query.compared,
})

/** The order of a list or a grid: what matches the brief has one of its own. */
export const orderOf = ({ matching, order }: FindingsQuery): Order => (matching ? 'match' : order)

/** How the findings of a query are laid out: as it says, else as its category usually is. */
export function layoutOf({ category, layout }: FindingsQuery): Layout {
  const offered = layoutsOf(category)
  return layout && offered.includes(layout) ? layout : (offered[0] ?? 'list')
}

/** What the view asks for first; null: it asks for something else than a list of findings. */
export function firstPageOf(query: FindingsQuery): (ReturnType<typeof filterOf> & { order: Order }) | null {
  const layout = layoutOf(query)
  if (layout === 'grid') return { ...filterOf(query), order: orderOf({ ...query, order: 'newest' }) }
  if (layout === 'list') return { ...filterOf({ ...query, conversation: null }), order: orderOf(query) }
  return null
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
  if (query.inTray) parameters.set('inTray', 'true')
  if (query.compared) parameters.set('compared', query.compared)
  if (query.layout) parameters.set('layout', query.layout)
  if (query.order !== 'newest') parameters.set('order', query.order)
  if (query.month) parameters.set('month', query.month)
  if (query.tiles !== 'medium') parameters.set('tiles', query.tiles)
  if (query.folding) parameters.set('folding', 'true')
  if (query.finding) parameters.set('finding', String(query.finding))
  return `?${parameters}`
}
