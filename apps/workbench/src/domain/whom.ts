import type { FindingLine } from './finding.js'

/** Whom a finding is with, as it says itself; null: it says nobody, or several. */
export function whoIs({ category, title, fields }: Pick<FindingLine, 'category' | 'title' | 'fields'>): string | null {
  if (category === 'contacts' || category === 'calls' || category === 'voicemail') return title || null
  if (category !== 'messages' && category !== 'chats') return null
  const sender = fields.direction === 'out' ? null : (fields.senderName ?? fields.sender)
  if (typeof sender === 'string' && sender !== '') return sender
  // The title of a conversation names those who take part.
  return title === '' || title.includes(',') ? null : title
}

/** Findings of one page of a person's list; fewer come only at its end. */
export const PERSON_PAGE = 200
