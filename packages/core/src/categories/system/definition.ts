import type { Definition } from '../definition.js'

export const networksDefinition = {
  id: 'networks',
  label: 'Wi-Fi networks',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['joinedAt', 'addedAt', 'bssid'],
  needsPassword: 'since 13',
} as const satisfies Definition

export const accountsDefinition = {
  id: 'accounts',
  label: 'Accounts',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['type', 'owner', 'userName', 'createdAt'],
} as const satisfies Definition

export const installedAppsDefinition = {
  id: 'installed-apps',
  label: 'Installed apps',
  formats: ['csv', 'html-table'],
  group: 'device',
  nature: 'rows',
  columns: ['installed', 'files', 'bytes', 'bundleId'],
} as const satisfies Definition
