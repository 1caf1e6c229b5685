import type { Definition } from '../definition.js'

export const networksDefinition = {
  id: 'networks',
  label: 'Wi-Fi networks',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['domain', 'path', 'mime'],
  needsPassword: 'since 13',
} as const satisfies Definition

export const accountsDefinition = {
  id: 'accounts',
  label: 'Accounts',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['domain', 'path', 'mime'],
} as const satisfies Definition

export const installedAppsDefinition = {
  id: 'installed-apps',
  label: 'Installed apps',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['domain', 'path', 'mime'],
} as const satisfies Definition
