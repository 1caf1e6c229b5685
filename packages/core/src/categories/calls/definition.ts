import type { Definition } from '../definition.js'

export const callsDefinition = {
  id: 'calls',
  label: 'Calls',
  formats: ['csv', 'html-table'],
  group: 'people',
  nature: 'rows',
  columns: ['direction', 'durationSeconds', 'service', 'answered'],
  needsPassword: 'since 13',
  titledByContacts: true,
} as const satisfies Definition
