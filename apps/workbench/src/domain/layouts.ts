import type { CategoryId } from '@lumbrin/core/categories/types'

/** The ways in which findings can be laid out. */
export const LAYOUTS = ['grid', 'conversations', 'list', 'days', 'map'] as const
export type Layout = (typeof LAYOUTS)[number]

export const LAYOUT_LABELS: Record<Layout, string> = {
  grid: 'Grid',
  conversations: 'Conversations',
  list: 'List',
  days: 'Days',
  map: 'Map',
}

const GRIDS: readonly CategoryId[] = ['photos', 'app-pictures', 'previews']
const TALKS: readonly CategoryId[] = ['messages', 'chats']
const PLACED: readonly CategoryId[] = ['photos', 'videos', 'app-pictures', 'places']

/** The layouts that make sense for a category; the first is its usual one. */
export function layoutsOf(category: CategoryId): Layout[] {
  const first: Layout[] = GRIDS.includes(category) ? ['grid'] : TALKS.includes(category) ? ['conversations'] : []
  return [...first, 'list', 'days', ...(PLACED.includes(category) ? (['map'] as const) : [])]
}
