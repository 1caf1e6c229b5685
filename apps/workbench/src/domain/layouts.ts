import { type CategoryId, definitionOf } from '@lumbrin/core/categories/registry'

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

/** The layouts that make sense for a category; the first is its usual one. */
export function layoutsOf(category: CategoryId): Layout[] {
  const special = definitionOf(category).layouts ?? []
  return [...special.filter((one) => one !== 'map'), 'list', 'days', ...special.filter((one) => one === 'map')]
}
