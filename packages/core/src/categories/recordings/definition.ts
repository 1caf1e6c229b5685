import type { Definition } from '../definition.js'

export const voiceMemosDefinition = {
  id: 'voice-memos',
  label: 'Voice memos',
  formats: ['original', 'csv'],
  group: 'pictures',
  nature: 'files',
  columns: ['durationSeconds', 'daysLeft'],
  contents: 'sound',
} as const satisfies Definition

export const voicemailDefinition = {
  id: 'voicemail',
  label: 'Voicemail',
  formats: ['original', 'csv'],
  group: 'people',
  nature: 'files',
  columns: ['durationSeconds', 'daysLeft'],
  contents: 'sound',
  titledByContacts: true,
} as const satisfies Definition
