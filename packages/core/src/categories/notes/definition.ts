import { type Definition, filesDefinition } from '../definition.js'

export const notesDefinition = {
  id: 'notes',
  label: 'Notes',
  formats: ['note-pages', 'note-texts', 'csv'],
  nature: 'rows',
  columns: ['folder', 'locked', 'daysLeft'],
  files: ['note-attachments'],
} as const satisfies Definition

export const noteAttachmentsDefinition = filesDefinition('note-attachments', 'Note attachments', {
  contents: 'picture',
  readFrom: ['notes'],
})
