import type { Definition } from '../definition.js'

export const webHistoryDefinition = {
  id: 'web-history',
  label: 'Web history',
  formats: ['csv', 'html-table'],
  group: 'web',
  nature: 'rows',
  columns: ['visits', 'url'],
  needsPassword: 'since 13',
} as const satisfies Definition

export const bookmarksDefinition = {
  id: 'bookmarks',
  label: 'Bookmarks',
  formats: ['bookmark-file', 'csv'],
  group: 'web',
  nature: 'rows',
  columns: ['folder', 'url'],
} as const satisfies Definition

export const openTabsDefinition = {
  id: 'open-tabs',
  label: 'Open tabs',
  formats: ['csv', 'html-table'],
  group: 'web',
  nature: 'rows',
  columns: ['private', 'url'],
} as const satisfies Definition
