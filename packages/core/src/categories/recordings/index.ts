import { fromCocoa, fromUnix } from '../../io/time.js'
import { mimeOf } from '../../media/kinds.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { firstValue, type Mapped, rowCategory, type StoreRows } from '../rows.js'
import type { ContentRef } from '../types.js'
import { voiceMemosDefinition, voicemailDefinition } from './definition.js'
import { voiceMemoFields, voicemailFields } from './fields.js'

/** Recordings of the system's own recorder, with their bin. */
export const voiceMemos = rowCategory({
  ...voiceMemosDefinition,
  fields: voiceMemoFields,
  stores: [
    { domain: 'AppDomainGroup-group.com.apple.VoiceMemos.shared', path: 'Recordings/CloudRecordings.db' },
    { domain: 'MediaDomain', path: 'Media/Recordings/CloudRecordings.db' },
    { domain: 'MediaDomain', path: 'Media/Recordings/Recordings.db' },
  ],
  tables: ['ZCLOUDRECORDING', 'ZRECORDING'],
  map: voiceMemo,
  identity: ({ fields, when }) =>
    typeof fields.uuid === 'string' ? `id:${fields.uuid}` : `memo:${when}:${fields.durationSeconds}`,
  alsoHolds: ({ domain, path }) =>
    (domain === 'MediaDomain' && /^Media\/Recordings\/[^/]+\.m4a$/.test(path)) ||
    (domain === 'AppDomainGroup-group.com.apple.VoiceMemos.shared' && /^Recordings\/[^/]+\.m4a$/.test(path)),
})

function voiceMemo(row: Row, rows: StoreRows): Mapped {
  const recorded = fromCocoa(row.values.ZDATE)
  const duration = numberValue(row.values.ZDURATION)
  const title = textValue(firstValue(row, 'ZENCRYPTEDTITLE', 'ZCUSTOMLABEL'))
  const name = textValue(row.values.ZPATH)?.split('/').at(-1) ?? null
  const content = name === null ? null : besideStore(rows, name)
  const evicted = row.values.ZEVICTIONDATE
  return {
    when: recorded,
    title: title ?? name ?? 'Without a name',
    text: null,
    fields: {
      title,
      durationSeconds: duration,
      recordedAt: recorded?.toISOString() ?? null,
      fileName: name,
      uuid: textValue(row.values.ZUNIQUEID),
      contentMissing: content === null,
    },
    content,
    ...(evicted === null || evicted === undefined ? {} : { binnedAt: fromCocoa(evicted) }),
    whole: content !== null && recorded !== null,
  }
}

/** Messages left on the phone's answering service, with their bin. */
export const voicemail = rowCategory({
  ...voicemailDefinition,
  fields: voicemailFields,
  stores: [{ domain: 'HomeDomain', path: 'Library/Voicemail/voicemail.db' }],
  tables: ['voicemail'],
  map: voicemailMessage,
  identity: ({ fields, when }) => `voicemail:${fields.remoteId ?? ''}:${when}:${fields.sender}`,
  alsoHolds: ({ domain, path }) => domain === 'HomeDomain' && path.startsWith('Library/Voicemail/'),
})

async function voicemailMessage(row: Row, rows: StoreRows): Promise<Mapped> {
  const { values } = row
  const received = fromUnix(values.date)
  const sender = textValue(values.sender) || textValue(values.callback_num) || null
  const senderName = (await rows.names(null)).of(sender)
  const trashed = numberValue(values.trashed_date) ?? 0
  const content = row.rowid === null ? null : besideStore(rows, `${row.rowid}.amr`)
  return {
    when: received,
    title: senderName ?? sender ?? 'unknown number',
    text: null,
    fields: {
      sender,
      senderName,
      durationSeconds: numberValue(values.duration),
      receivedAt: received?.toISOString() ?? null,
      remoteId: numberValue(values.remote_uid),
      contentMissing: content === null,
    },
    content,
    ...(trashed > 0 ? { binnedAt: fromCocoa(trashed) } : {}),
    whole: content !== null && received !== null,
  }
}

/** A file in the folder of the store; null where the source does not list it. */
function besideStore({ store, context }: StoreRows, name: string): ContentRef | null {
  const { domain, path } = store.entry
  const place = `${path.slice(0, path.lastIndexOf('/'))}/${name}`
  const entry = context.tree.find(domain, place)
  return entry ? { name, bytes: entry.size ?? 0, mime: mimeOf(name), sha256: null, domain, path: place } : null
}
