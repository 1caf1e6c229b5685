import { randomUUID } from 'node:crypto'
import type { Duplex } from 'node:stream'
import { type Dict, type ListValue, takeList, xmlFrame } from '@lumbrin/core/device/lists'
import { StreamReader } from '@lumbrin/core/device/stream'
import { isDict, type PlistValue, textOf } from '@lumbrin/core/plist/read'
import { noteDocument } from '../demo/stores/papers.js'
import { cocoa, insert, type StoreDatabase } from '../demo/stores/store.js'
import type { StandInDevice } from './device.js'
import { BackupFiles } from './files.js'

const PATIENCE_MS = 600_000

/** One item as it comes: texts, and lists of texts. */
type Item = { [key: string]: PlistValue }

interface Kind {
  domain: string
  path: string
  count(database: StoreDatabase): number
  /** True where the device has it already. */
  has(database: StoreDatabase, item: Item): boolean
  /** Adds it and gives its row's number. */
  add(database: StoreDatabase, item: Item): number
  remove(database: StoreDatabase, id: number): void
}

/**
 * The stand-in's own service for items that go back to the owner's device. Each request is a list: `Look` says what is
 * there, `Add` adds what is not, `Remove` takes back what was added.
 */
export async function serveReturns(device: StandInDevice, stream: Duplex): Promise<void> {
  const reader = new StreamReader(stream, PATIENCE_MS)
  for (;;) {
    const request = await takeList(reader)
    if (!isDict(request)) return void stream.end()
    await device.send(stream, xmlFrame(answer(device, request)))
  }
}

function answer(device: StandInDevice, request: Dict): ListValue {
  const kind = KINDS[String(request.Kind)]
  if (!kind || !(device.files instanceof BackupFiles)) return { Error: 'UnknownKind' }
  if (device.switches.theftLock && request.Command !== 'Look') return { Error: 'TheftLockOn' }
  const items = Array.isArray(request.Items) ? request.Items.filter(isDict) : []
  return device.files.inDatabase(kind.domain, kind.path, (database) => {
    const before = kind.count(database)
    if (request.Command === 'Look') return { Count: before, Known: items.map((item) => kind.has(database, item)) }
    if (request.Command === 'Add') {
      const added = items.map((item) => (kind.has(database, item) ? 0 : kind.add(database, item)))
      return { Before: before, Count: kind.count(database), Added: added }
    }
    if (request.Command !== 'Remove') return { Error: 'UnknownCommand' }
    for (const id of Array.isArray(request.Ids) ? request.Ids : []) kind.remove(database, Number(id))
    return { Before: before, Count: kind.count(database) }
  })
}

const count = (database: StoreDatabase, sql: string, values: (string | number | null)[] = []): number =>
  Number(database.get(sql, values)?.n ?? 0)

const text = (item: Item, key: string): string | null => textOf(item[key])

const KINDS: Readonly<Record<string, Kind>> = {
  contacts: {
    domain: 'HomeDomain',
    path: 'Library/AddressBook/AddressBook.sqlitedb',
    count: (database) => count(database, 'SELECT count(*) AS n FROM ABPerson'),
    has: (database, item) =>
      count(
        database,
        'SELECT count(*) AS n FROM ABPerson WHERE First IS ? AND Last IS ? AND Organization IS ?',
        ['GivenName', 'FamilyName', 'Organization'].map((key) => text(item, key)),
      ) > 0,
    add(database, item) {
      const at = cocoa(new Date())
      const id = insert(database, 'ABPerson', {
        First: text(item, 'GivenName'),
        Last: text(item, 'FamilyName'),
        Organization: text(item, 'Organization'),
        Note: text(item, 'Note'),
        Kind: 0,
        CreationDate: at,
        ModificationDate: at,
        guid: randomUUID().toUpperCase(),
      })
      for (const [property, key] of [
        [3, 'Phones'],
        [4, 'Emails'],
      ] as const)
        for (const value of Array.isArray(item[key]) ? item[key] : [])
          insert(database, 'ABMultiValue', { record_id: id, property, identifier: 0, label: 1, value: String(value) })
      return id
    },
    remove(database, id) {
      database.run('DELETE FROM ABMultiValue WHERE record_id = ?', [id])
      database.run('DELETE FROM ABPerson WHERE ROWID = ?', [id])
    },
  },
  notes: {
    domain: 'AppDomainGroup-group.com.apple.notes',
    path: 'NoteStore.sqlite',
    count: (database) => count(database, 'SELECT count(*) AS n FROM ZICCLOUDSYNCINGOBJECT WHERE Z_ENT = 10'),
    has: (database, item) =>
      count(database, 'SELECT count(*) AS n FROM ZICCLOUDSYNCINGOBJECT WHERE Z_ENT = 10 AND ZTITLE1 IS ?', [
        text(item, 'Title'),
      ]) > 0,
    add(database, item) {
      const at = cocoa(new Date())
      const folder = database.get('SELECT Z_PK AS id FROM ZICCLOUDSYNCINGOBJECT WHERE Z_ENT = 14 AND ZFOLDERTYPE = 0')
      const note = insert(database, 'ZICCLOUDSYNCINGOBJECT', {
        Z_ENT: 10,
        Z_OPT: 1,
        ZIDENTIFIER: randomUUID().toUpperCase(),
        ZMARKEDFORDELETION: 0,
        ZISPASSWORDPROTECTED: 0,
        ZFOLDER: Number(folder?.id ?? 0),
        ZTITLE1: text(item, 'Title'),
        ZCREATIONDATE1: at,
        ZMODIFICATIONDATE1: at,
      })
      const lines = (text(item, 'Body') ?? '').split('\n')
      const data = insert(database, 'ZICNOTEDATA', { Z_ENT: 19, Z_OPT: 1, ZNOTE: note, ZDATA: noteDocument(lines, 0) })
      database.run('UPDATE ZICCLOUDSYNCINGOBJECT SET ZNOTEDATA = ? WHERE Z_PK = ?', [data, note])
      return note
    },
    remove(database, id) {
      database.run('DELETE FROM ZICNOTEDATA WHERE ZNOTE = ?', [id])
      database.run('DELETE FROM ZICCLOUDSYNCINGOBJECT WHERE Z_PK = ?', [id])
    },
  },
  messages: {
    domain: 'HomeDomain',
    path: 'Library/SMS/sms.db',
    count: (database) => count(database, 'SELECT count(*) AS n FROM message'),
    has: (database, item) =>
      count(database, 'SELECT count(*) AS n FROM message WHERE guid = ?', [text(item, 'Guid') ?? '']) > 0,
    add(database, item) {
      const address = text(item, 'Address') ?? 'unknown'
      const handle = handleOf(database, address)
      const date = Math.round((Date.parse(text(item, 'SentAt') ?? '') - Date.UTC(2001, 0, 1)) * 1e6) || 0
      const id = insert(database, 'message', {
        guid: text(item, 'Guid') ?? randomUUID().toUpperCase(),
        text: text(item, 'Text'),
        handle_id: item.Outgoing === true ? 0 : handle,
        service: text(item, 'Service') ?? 'SMS',
        date,
        is_from_me: item.Outgoing === true ? 1 : 0,
        is_read: 1,
        is_finished: 1,
      })
      insert(database, 'chat_message_join', {
        chat_id: chatOf(database, address, handle),
        message_id: id,
        message_date: date,
      })
      return id
    },
    remove(database, id) {
      database.run('DELETE FROM chat_message_join WHERE message_id = ?', [id])
      database.run('DELETE FROM message WHERE ROWID = ?', [id])
    },
  },
}

function handleOf(database: StoreDatabase, address: string): number {
  const known = database.get('SELECT ROWID AS id FROM handle WHERE id = ?', [address])
  return known ? Number(known.id) : insert(database, 'handle', { id: address, service: 'SMS', country: 'us' })
}

function chatOf(database: StoreDatabase, address: string, handle: number): number {
  const known = database.get('SELECT ROWID AS id FROM chat WHERE chat_identifier = ? AND style = 45', [address])
  if (known) return Number(known.id)
  const chat = insert(database, 'chat', {
    guid: `SMS;-;${address}`,
    style: 45,
    state: 3,
    chat_identifier: address,
    service_name: 'SMS',
  })
  insert(database, 'chat_handle_join', { chat_id: chat, handle_id: handle })
  return chat
}
