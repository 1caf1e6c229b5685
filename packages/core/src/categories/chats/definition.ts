import { type Definition, filesDefinition } from '../definition.js'

export const chatsDefinition = {
  id: 'chats',
  label: 'Chats',
  formats: ['html', 'csv'],
  group: 'people',
  nature: 'rows',
  columns: ['sender', 'app', 'direction', 'recipients'],
  layouts: ['conversations'],
} as const satisfies Definition

export const chatAttachmentsDefinition = filesDefinition('chat-attachments', 'Chat attachments', {
  group: 'people',
  contents: 'picture',
  readFrom: ['chats'],
})
