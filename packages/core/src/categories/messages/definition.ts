import { type Definition, filesDefinition } from '../definition.js'

export const messagesDefinition = {
  id: 'messages',
  label: 'Messages',
  formats: ['html', 'csv'],
  group: 'people',
  nature: 'rows',
  columns: ['sender', 'service', 'direction', 'recipients', 'daysLeft'],
  layouts: ['conversations'],
  titledByContacts: true,
} as const satisfies Definition

export const messageAttachmentsDefinition = filesDefinition('message-attachments', 'Message attachments', {
  group: 'people',
  contents: 'picture',
  readFrom: ['messages'],
  titledByContacts: true,
})
