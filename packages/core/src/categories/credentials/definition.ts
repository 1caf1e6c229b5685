import type { Definition } from '../definition.js'

export const credentialsDefinition = {
  id: 'credentials',
  label: 'Saved passwords',
  formats: ['credentials'],
  group: 'device',
  nature: 'rows',
  columns: ['domain', 'path', 'mime'],
  needsPassword: 'always',
} as const satisfies Definition
