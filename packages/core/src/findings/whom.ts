import type { CategoryId } from '../categories/registry.js'
import type { Json } from '../categories/types.js'

/** Whom a finding is with, as it says itself; null: it says nobody, or several. */
export function whoIs({
  category,
  title,
  fields,
}: {
  category: CategoryId
  title: string
  fields: { [key: string]: Json }
}): string | null {
  if (category === 'contacts' || category === 'calls' || category === 'voicemail') return title || null
  if (category !== 'messages' && category !== 'chats') return null
  const sender = fields.direction === 'out' ? null : (fields.senderName ?? fields.sender)
  if (typeof sender === 'string' && sender !== '') return sender
  // The title of a conversation names those who take part.
  return title === '' || title.includes(',') ? null : title
}
