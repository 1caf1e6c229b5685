import { type Definition, filesDefinition } from '../definition.js'

export const notesDefinition = {
  id: 'notes',
  label: 'Notes',
  formats: ['note-pages', 'note-texts', 'csv'],
  group: 'people',
  nature: 'rows',
  columns: ['folder', 'locked', 'daysLeft'],
  files: ['note-attachments'],
} as const satisfies Definition

export const noteAttachmentsDefinition = filesDefinition('note-attachments', 'Note attachments', {
  group: 'people',
  contents: 'picture',
  readFrom: ['notes'],
})
