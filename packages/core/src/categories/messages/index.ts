import { fromCocoa } from '../../io/time.js'
import { rebuildRows } from '../../sqlite/residue/rebuild.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { daysLeft } from '../bin.js'
import { ContactNames } from '../contacts/names.js'
import { keyedBy, ownId, talkLikeness } from '../keys.js'
import { type OpenStore, openStore, originOf, requireTable } from '../open.js'
import { isStore } from '../places.js'
import type { Category, Condition, Json, ReadContext, Sighting } from '../types.js'
import { attributedBodyText } from './body.js'
import { ATTACHMENT_DOMAIN, MessageContext } from './context.js'
import { messagesDefinition } from './definition.js'
import { editsOf, eventOf } from './edits.js'
import { messageFields } from './fields.js'
import { isReaction, Reactions } from './reactions.js'

const PLACES = [{ domain: 'HomeDomain', path: 'Library/SMS/sms.db' }]

/** Messages of the system's own application: sms.db of version 6 and later. */
export const messages: Category = {
  ...messagesDefinition,
  fields: messageFields,
  stores: PLACES,
  holds: (entry) =>
    isStore(PLACES, entry) || (entry.domain === ATTACHMENT_DOMAIN && entry.path.startsWith('Library/SMS/Attachments/')),
  read: readMessages,
  // The guid is the system's own and survives every copy; where it was lost, what is left must agree in full.
  ...keyedBy(({ fields }) => ownId('guid', fields.guid), talkLikeness),
}

async function* readMessages(context: ReadContext): AsyncGenerator<Sighting> {
  const store = await openStore(context.tree, PLACES, context.report)
  if (!store) return
  try {
    if (!requireTable(store, ['message'], context.report)) return
    const surroundings = await MessageContext.load(store.database, context.tree)
    const reactions = await loadReactions(store, surroundings)
    const names = await ContactNames.load(context.tree, surroundings.region)
    const mapper = new MessageMapper(store, surroundings, reactions, names, context.tree.info.takenAt)
    yield* context.pass === 'live' ? liveMessages(store, mapper) : rebuiltMessages(store, mapper, context)
  } finally {
    await store.close()
  }
}

async function loadReactions(store: OpenStore, surroundings: MessageContext): Promise<Reactions> {
  const reactions = new Reactions()
  if (!store.database.hasColumn('message', 'associated_message_type')) return reactions
  for (const row of store.database.rows('message'))
    if (isReaction(row)) reactions.add(row, surroundings.handle(numberValue(row.values.handle_id)))
  return reactions
}

async function* liveMessages(store: OpenStore, mapper: MessageMapper): AsyncGenerator<Sighting> {
  for (const row of store.database.rows('message')) if (!isReaction(row)) yield mapper.sighting(row)
}

async function* rebuiltMessages(
  store: OpenStore,
  mapper: MessageMapper,
  context: ReadContext,
): AsyncGenerator<Sighting> {
  const rows: Row[] = []
  for (const row of rebuildRows(store)) if (row.standing !== 'superseded') rows.push(row)
  // The rows around a message are lost with it: they must be known before the message is put together.
  for (const row of rows) if (row.table !== 'message') mapper.surroundings.add(row, context.tree)
  const messages = rows.filter((row) => row.table === 'message' && !isReaction(row))
  const told = new Set<string>()
  // Whole rows first: what is left of an older version of the same message adds nothing to it.
  for (const row of [...messages.filter(isWhole), ...messages.filter((row) => !isWhole(row))]) {
    const guid = textValue(row.values.guid)
    if (guid !== null && told.has(guid)) continue
    if (guid !== null) told.add(guid)
    yield mapper.sighting(row)
  }
}

const isWhole = (row: Row) => row.missing.every((column) => column === 'ROWID')

class MessageMapper {
  constructor(
    readonly store: OpenStore,
    readonly surroundings: MessageContext,
    readonly reactions: Reactions,
    readonly names: ContactNames,
    readonly takenAt: Date | null,
  ) {}

  sighting(row: Row): Sighting {
    const { values } = row
    const id = numberValue(row.rowid)
    const chat = this.surroundings.chat(id)
    // Null where the column was lost: neither way is more likely.
    const fromMe = numberValue(values.is_from_me)
    const outgoing = fromMe === 1
    const partner = this.surroundings.handle(numberValue(values.handle_id))
    const guid = textValue(values.guid)
    const binnedAt = fromCocoa(this.surroundings.binnedAt(id))
    const body = bodyOf(row)
    const attachments = this.surroundings.attachments(id)
    const { versions, unsent } = editsOf(values.message_summary_info, body)
    const itemType = numberValue(values.item_type) ?? 0
    const fields: { [key: string]: Json } = {
      kind: itemType === 0 ? 'message' : 'event',
      event: eventOf(itemType, numberValue(values.group_action_type) ?? 0),
      eventTitle: textValue(values.group_title),
      conversation: chat?.guid ?? null,
      conversationTitle: chat?.title ?? null,
      direction: fromMe === null ? null : outgoing ? 'out' : 'in',
      sender: fromMe === 0 ? partner : null,
      senderName: fromMe === 0 ? this.names.of(partner) : null,
      recipients: outgoing ? recipientsOf(chat?.participants, partner) : [],
      service: textValue(values.service),
      body,
      attachments,
      guid,
      deliveredAt: iso(values.date_delivered),
      readAt: iso(values.date_read),
      replyTo: textValue(values.thread_originator_guid),
      reactions: this.reactions.of(guid),
      versions,
      editedAt: iso(values.date_edited),
      unsent: unsent || iso(values.date_retracted) !== null,
      binnedAt: binnedAt?.toISOString() ?? null,
      daysLeft: daysLeft(binnedAt, this.takenAt),
    }
    return {
      category: 'messages',
      condition: this.#condition(row, id, body !== null || attachments.length > 0 || unsent),
      when: iso(values.date),
      title: chat?.title ?? this.#people(outgoing ? (fields.recipients as string[]) : partner ? [partner] : []),
      text: body,
      fields,
      content: null,
      origin: originOf(this.store, row),
      missing: row.missing,
      confidence: row.confidence,
    }
  }

  /** People by name, or by address where the address book does not know them. */
  #people(addresses: readonly string[]): string {
    return addresses.map((address) => this.names.of(address) ?? address).join(', ')
  }

  #condition(row: Row, id: number | null, hasContent: boolean): Condition {
    const event = (numberValue(row.values.item_type) ?? 0) !== 0
    if (this.surroundings.binnedAt(id) !== undefined) return 'binned'
    // A message that no conversation shows is gone for the owner, though its row is still there.
    const shown =
      row.standing === 'live' &&
      (this.surroundings.chat(id) !== undefined || !this.store.database.tables.has('chat_message_join'))
    if (shown) return 'live'
    return (hasContent || event) && fromCocoa(row.values.date) !== null ? 'rebuilt' : 'partial'
  }
}

const iso = (value: unknown) => fromCocoa(value)?.toISOString() ?? null

function recipientsOf(participants: string[] | undefined, partner: string | null): string[] {
  if (participants && participants.length > 0) return participants
  return partner ? [partner] : []
}

// Newer systems leave the text column empty and keep the text in the archived body only.
function bodyOf(row: Row): string | null {
  const text = textValue(row.values.text)
  if (text) return text
  const archive = row.values.attributedBody
  return archive instanceof Uint8Array ? (attributedBodyText(archive) ?? text) : text
}
