import type { Definition } from '../definition.js'

export const contactsDefinition = {
  id: 'contacts',
  label: 'Contacts',
  formats: ['vcard', 'csv'],
  group: 'people',
  nature: 'rows',
  columns: ['organization', 'birthday', 'jobTitle'],
} as const satisfies Definition
