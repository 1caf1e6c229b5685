import type { SourceTree } from '../../backup/types.js'
import { fromCocoa, fromUnix, fromWebkit } from '../../io/time.js'
import { mimeOf } from '../../media/kinds.js'
import { numberValue, type Row, type SqlValue, textValue } from '../../sqlite/values.js'
import type { AttachmentRef } from '../attachments.js'
import type { Mapped, StoreRows } from '../rows.js'
import type { Profile, TIME_FORMS } from './profile.js'

const TIMES: Record<(typeof TIME_FORMS)[number], (value: SqlValue | undefined) => Date | null> = {
  cocoa: fromCocoa,
  'unix-seconds': fromUnix,
  'unix-milliseconds': (value) => fromUnix(divided(value, 1e3)),
  'unix-microseconds': (value) => fromUnix(divided(value, 1e6)),
  webkit: fromWebkit,
}

const divided = (value: SqlValue | undefined, by: number): number | null => {
  const number = numberValue(value)
  return number === null ? null : number / by
}

/** Reads rows of an application's database as its profile says. */
export class ChatMapper {
  constructor(
    readonly profile: Profile,
    readonly rows: StoreRows,
  ) {}

  /** One message. Undefined: the row says nothing. */
  map(row: Row): Mapped | undefined {
    const { messages, app } = this.profile
    const at = (column: string | undefined) => (column === undefined ? undefined : row.values[column])
    const when = TIMES[messages.time](at(messages.sentAt))
    const body = textValue(at(messages.text))
    const attachments = this.#attachments(row)
    const mine = numberValue(at(messages.fromMe))
    const outgoing = mine !== null && mine !== 0
    const kind = messages.kind && numberValue(at(messages.kind.column))
    const withdrawn = typeof kind === 'number' && messages.kind?.withdrawn.includes(kind) === true
    if (when === null && body === null && attachments.length === 0) return undefined
    const conversation = this.#conversation(at(messages.conversation))
    const sender = mine === 0 ? this.#sender(row, conversation.id) : undefined
    return {
      when,
      title: conversation.title ?? conversation.id ?? sender?.name ?? sender?.address ?? '',
      text: body,
      fields: {
        app,
        kind: typeof kind === 'number' && messages.kind?.events.includes(kind) ? 'event' : 'message',
        conversation: conversation.id,
        conversationTitle: conversation.title,
        direction: mine === null ? null : outgoing ? 'out' : 'in',
        sender: sender?.address ?? null,
        senderName: sender?.name ?? null,
        recipients: outgoing ? this.#recipients(conversation) : [],
        service: app,
        body,
        attachments,
        guid: textValue(at(messages.id)),
        replyTo: textValue(at(messages.replyTo)),
        withdrawn,
      },
      whole: (body !== null || attachments.length > 0) && when !== null,
    }
  }

  #conversation(key: SqlValue | undefined): Conversation {
    const { conversations } = this.profile
    if (key === null || key === undefined) return { key: null, id: null, title: null }
    if (!conversations) return { key, id: String(key), title: null }
    const row = conversations.key
      ? this.rows.having(conversations.table, conversations.key, key)[0]
      : this.rows.byId(conversations.table, numberValue(key))
    const id = conversations.id ? textValue(row?.values[conversations.id]) : null
    const title = conversations.title ? textValue(row?.values[conversations.title]) : null
    // A key that names a conversation that is gone still holds its messages together.
    return { key, id: id ?? String(key), title: title || null }
  }

  #sender(row: Row, conversation: string | null): { address: string | null; name: string | null } {
    const { messages, members } = this.profile
    const member =
      members && messages.member ? this.rows.byId(members.table, numberValue(row.values[messages.member])) : undefined
    const address =
      (member && members ? textValue(member.values[members.address]) : null) ??
      (messages.sender ? textValue(row.values[messages.sender]) : null) ??
      (messages.sender ? null : conversation)
    const named =
      member ?? (members && address ? this.rows.having(members.table, members.address, address)[0] : undefined)
    return { address, name: members?.name ? textValue(named?.values[members.name]) : null }
  }

  #recipients({ key, id }: Conversation): string[] {
    const { members } = this.profile
    const addresses =
      members?.conversation && key !== null
        ? this.rows
            .having(members.table, members.conversation, key)
            .flatMap((row) => textValue(row.values[members.address]) ?? [])
        : []
    return addresses.length > 0 ? [...new Set(addresses)] : id === null ? [] : [id]
  }

  #attachments(row: Row): AttachmentRef[] {
    const { attachments } = this.profile
    if (!attachments) return []
    const id = numberValue(row.rowid)
    const rows =
      attachments.table === undefined || attachments.message === undefined
        ? [row]
        : id === null
          ? []
          : this.rows.having(attachments.table, attachments.message, id)
    return rows.flatMap((one) => {
      const stored = textValue(one.values[attachments.path])
      if (!stored) return []
      const name = (attachments.name && textValue(one.values[attachments.name])) || (stored.split('/').at(-1) as string)
      const bytes = attachments.bytes ? numberValue(one.values[attachments.bytes]) : null
      const { domain } = this.rows.store.entry
      return [attachmentRef(this.rows.context.tree, name, domain, `${attachments.folder}${stored}`, bytes)]
    })
  }
}

interface Conversation {
  key: SqlValue
  id: string | null
  title: string | null
}

function attachmentRef(
  tree: SourceTree,
  name: string,
  domain: string,
  path: string,
  bytes: number | null,
): AttachmentRef {
  const entry = tree.find(domain, path)
  return {
    name,
    mime: mimeOf(name),
    bytes: entry?.size ?? bytes ?? 0,
    sha256: null,
    domain,
    path: entry ? path : null,
  }
}
