import type { SourceTree } from '../../backup/types.js'
import { mimeOf } from '../../media/kinds.js'
import type { Database } from '../../sqlite/database.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import type { AttachmentRef } from '../attachments.js'

interface Chat {
  guid: string | null
  title: string | null
  participants: string[]
}

export const ATTACHMENT_DOMAIN = 'MediaDomain'

/** All that surrounds a message: who, in which conversation, with what attached, in which bin. */
export class MessageContext {
  readonly #handles = new Map<number, string>()
  readonly #regions = new Map<string, number>()
  readonly #chats = new Map<number, Chat>()
  readonly #chatOf = new Map<number, number>()
  readonly #binned = new Map<number, unknown>()
  readonly #attachments = new Map<number, AttachmentRef>()
  readonly #attachmentsOf = new Map<number, number[]>()

  static async load(database: Database, tree: SourceTree): Promise<MessageContext> {
    const context = new MessageContext()
    for (const table of [
      'handle',
      'chat',
      'chat_handle_join',
      'chat_message_join',
      'chat_recoverable_message_join',
      'attachment',
      'message_attachment_join',
    ])
      for (const row of database.rows(table)) context.add(row, tree)
    return context
  }

  /** Takes up one row of the surrounding tables, live or rebuilt; a live row always wins. */
  add(row: Row, tree: SourceTree): void {
    const { values } = row
    const id = numberValue(row.rowid)
    const chat = numberValue(values.chat_id)
    const message = numberValue(values.message_id)
    if (row.table === 'handle' && id !== null) this.#addHandle(id, row)
    if (row.table === 'chat' && id !== null) setOnce(this.#chats, id, chatOf(row))
    if (row.table === 'attachment' && id !== null) setOnce(this.#attachments, id, attachmentOf(row, tree))
    if (row.table === 'chat_message_join' && chat !== null && message !== null) setOnce(this.#chatOf, message, chat)
    if (row.table === 'chat_recoverable_message_join' && chat !== null && message !== null) {
      setOnce(this.#chatOf, message, chat)
      if (row.standing === 'live') this.#binned.set(message, values.delete_date)
    }
    if (row.table === 'chat_handle_join' && chat !== null) this.#addParticipant(chat, numberValue(values.handle_id))
    if (row.table === 'message_attachment_join' && message !== null)
      this.#addAttachment(message, numberValue(values.attachment_id))
  }

  /** The country of most correspondents, which is the device's own more likely than any other. */
  get region(): string | null {
    return [...this.#regions].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null
  }

  #addHandle(id: number, { values }: Row): void {
    setOnce(this.#handles, id, textValue(values.id) ?? '')
    const country = textValue(values.country)
    if (country) this.#regions.set(country, (this.#regions.get(country) ?? 0) + 1)
  }

  handle(id: number | null): string | null {
    return (id !== null && this.#handles.get(id)) || null
  }

  chat(message: number | null): Chat | undefined {
    const id = message === null ? undefined : this.#chatOf.get(message)
    return id === undefined ? undefined : this.#chats.get(id)
  }

  /** Undefined: not in the bin. */
  binnedAt(message: number | null): unknown {
    return message === null ? undefined : this.#binned.get(message)
  }

  attachments(message: number | null): AttachmentRef[] {
    const ids = message === null ? [] : (this.#attachmentsOf.get(message) ?? [])
    return ids.flatMap((id) => this.#attachments.get(id) ?? [])
  }

  #addParticipant(chat: number, handle: number | null): void {
    const address = this.handle(handle)
    const known = this.#chats.get(chat)
    if (address && known && !known.participants.includes(address)) known.participants.push(address)
  }

  #addAttachment(message: number, attachment: number | null): void {
    if (attachment === null) return
    const known = this.#attachmentsOf.get(message)
    if (!known) this.#attachmentsOf.set(message, [attachment])
    else if (!known.includes(attachment)) known.push(attachment)
  }
}

function setOnce<V>(map: Map<number, V>, key: number, value: V): void {
  if (!map.has(key)) map.set(key, value)
}

const chatOf = (row: Row): Chat => ({
  guid: textValue(row.values.guid) ?? textValue(row.values.chat_identifier),
  title: textValue(row.values.display_name) || null,
  participants: [],
})

function attachmentOf(row: Row, tree: SourceTree): AttachmentRef {
  const stored = textValue(row.values.filename)
  const path = stored && /^(~|\/var\/mobile)\//.test(stored) ? stored.replace(/^(~|\/var\/mobile)\//, '') : null
  const name = textValue(row.values.transfer_name) ?? stored?.split('/').at(-1) ?? 'attachment'
  const entry = path ? tree.find(ATTACHMENT_DOMAIN, path) : undefined
  return {
    name,
    mime: textValue(row.values.mime_type) ?? mimeOf(name),
    bytes: entry?.size ?? numberValue(row.values.total_bytes) ?? 0,
    sha256: null,
    domain: ATTACHMENT_DOMAIN,
    path: entry ? path : null,
  }
}
