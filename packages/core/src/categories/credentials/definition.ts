import type { Definition } from '../definition.js'

export const credentialsDefinition = {
  id: 'credentials',
  label: 'Saved passwords',
  formats: ['credentials'],
  group: 'device',
  nature: 'rows',
  columns: ['kind', 'server', 'service', 'account', 'modifiedAt'],
  needsPassword: 'always',
} as const satisfies Definition
