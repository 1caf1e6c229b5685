import type { Definition } from '../definition.js'

export const webHistoryDefinition = {
  id: 'web-history',
  label: 'Web history',
  formats: ['csv', 'html-table'],
  group: 'web',
  nature: 'rows',
  columns: ['url', 'visits'],
  needsPassword: 'since 13',
} as const satisfies Definition

export const bookmarksDefinition = {
  id: 'bookmarks',
  label: 'Bookmarks',
  formats: ['bookmark-file', 'csv'],
  group: 'web',
  nature: 'rows',
  columns: ['url', 'folder'],
} as const satisfies Definition

export const openTabsDefinition = {
  id: 'open-tabs',
  label: 'Open tabs',
  formats: ['csv', 'html-table'],
  group: 'web',
  nature: 'rows',
  columns: ['url', 'viewedAt', 'private'],
} as const satisfies Definition
