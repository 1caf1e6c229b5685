import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { BEGIN, DAY, everThere, type ItemState, type Life, type LifeCategory, type LifeItem, stateOn } from './life.js'

/** A file of a captured state. */
export interface StoreFile {
  domain: string
  path: string
  bytes: Uint8Array
}

type Value = string | number | null
/** Rows of one item, by table. */
type Rows = { [table: string]: { [column: string]: Value } }

interface Store {
  domain: string
  path: string
  schema: string
  /** The rows that an item has in a state. */
  rows(item: LifeItem, state: ItemState): Rows
}

const cocoa = (day: number) => (BEGIN + day * DAY) / 1000 - 978_307_200
/** The day of an item's own time: the first on which it was made anywhere. */
const madeOn = (item: LifeItem) => Math.min(...[...item.events.values()].map(([first]) => first?.day ?? 0))
const textOf = (item: LifeItem, { edits }: ItemState) => `${item.token}${edits > 0 ? ` edited ${edits}` : ''}`
const id = (item: LifeItem) => item.number + 1

/** The stores of the categories, as small as the readers let them be. */
export const STORES: Record<LifeCategory, Store> = {
  messages: {
    domain: 'HomeDomain',
    path: 'Library/SMS/sms.db',
    schema: `CREATE TABLE message (ROWID INTEGER PRIMARY KEY, guid TEXT UNIQUE, text TEXT, handle_id INTEGER, date INTEGER, is_from_me INTEGER, service TEXT);
      CREATE TABLE handle (ROWID INTEGER PRIMARY KEY, id TEXT); INSERT INTO handle VALUES (1, '+12025550107');
      CREATE TABLE chat (ROWID INTEGER PRIMARY KEY, guid TEXT, chat_identifier TEXT, display_name TEXT); INSERT INTO chat VALUES (1, 'SMS;-;+12025550107', '+12025550107', '');
      CREATE TABLE chat_message_join (chat_id INTEGER, message_id INTEGER); CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER);
      INSERT INTO chat_handle_join VALUES (1, 1);
      CREATE TABLE chat_recoverable_message_join (chat_id INTEGER, message_id INTEGER, delete_date INTEGER);`,
    rows: (item, state) => ({
      message: {
        ROWID: id(item),
        guid: item.uuid,
        text: textOf(item, state),
        handle_id: 1,
        date: cocoa(madeOn(item)),
        is_from_me: item.number % 2,
        service: 'SMS',
      },
      ...(state.condition === 'binned'
        ? {
            chat_recoverable_message_join: {
              chat_id: 1,
              message_id: id(item),
              delete_date: cocoa(state.binnedDay ?? 0),
            },
          }
        : { chat_message_join: { chat_id: 1, message_id: id(item) } }),
    }),
  },
  contacts: {
    domain: 'HomeDomain',
    path: 'Library/AddressBook/AddressBook.sqlitedb',
    schema: `CREATE TABLE ABPerson (ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, Organization TEXT, CreationDate INTEGER, ModificationDate INTEGER, guid TEXT);
      CREATE TABLE ABMultiValue (UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, label INTEGER, value TEXT);`,
    rows: (item, state) => ({
      ABPerson: {
        ROWID: id(item),
        First: item.token,
        Last: state.edits > 0 ? `edited ${state.edits}` : 'Moon',
        Organization: null,
        CreationDate: cocoa(madeOn(item)),
        ModificationDate: cocoa(madeOn(item)),
        guid: item.uuid,
      },
      ABMultiValue: {
        UID: id(item),
        record_id: id(item),
        property: 3,
        label: null,
        value: `+1202555${String(1000 + item.number).slice(-4)}`,
      },
    }),
  },
  notes: {
    domain: 'HomeDomain',
    path: 'Library/Notes/notes.sqlite',
    schema: `CREATE TABLE ZNOTE (Z_PK INTEGER PRIMARY KEY, ZTITLE TEXT, ZGUID TEXT, ZCREATIONDATE INTEGER, ZMODIFICATIONDATE INTEGER, ZDELETEDFLAG INTEGER);
      CREATE TABLE ZNOTEBODY (Z_PK INTEGER PRIMARY KEY, ZOWNER INTEGER, ZCONTENT TEXT);`,
    rows: (item, state) => ({
      ZNOTE: {
        Z_PK: id(item),
        ZTITLE: item.token,
        ZGUID: item.uuid,
        ZCREATIONDATE: cocoa(madeOn(item)),
        ZMODIFICATIONDATE: cocoa(madeOn(item)),
        ZDELETEDFLAG: 0,
      },
      ZNOTEBODY: { Z_PK: id(item), ZOWNER: id(item), ZCONTENT: `${textOf(item, state)} in the attic` },
    }),
  },
  calls: {
    domain: 'HomeDomain',
    path: 'Library/CallHistoryDB/CallHistory.storedata',
    schema: `CREATE TABLE ZCALLRECORD (Z_PK INTEGER PRIMARY KEY, ZUNIQUE_ID TEXT, ZADDRESS TEXT, ZNAME TEXT, ZDATE INTEGER, ZDURATION INTEGER, ZORIGINATED INTEGER, ZANSWERED INTEGER, ZCALLTYPE INTEGER);`,
    rows: (item) => ({
      ZCALLRECORD: {
        Z_PK: id(item),
        ZUNIQUE_ID: item.uuid,
        ZADDRESS: '+12025550107',
        ZNAME: item.token,
        ZDATE: cocoa(madeOn(item)),
        ZDURATION: 60 + item.number,
        ZORIGINATED: item.number % 2,
        ZANSWERED: 1,
        ZCALLTYPE: 1,
      },
    }),
  },
  events: {
    domain: 'HomeDomain',
    path: 'Library/Calendar/Calendar.sqlitedb',
    schema: `CREATE TABLE CalendarItem (ROWID INTEGER PRIMARY KEY, summary TEXT, description TEXT, start_date INTEGER, end_date INTEGER, all_day INTEGER, calendar_id INTEGER, entity_type INTEGER, UUID TEXT);
      CREATE TABLE Calendar (ROWID INTEGER PRIMARY KEY, title TEXT); INSERT INTO Calendar VALUES (1, 'Tour');`,
    rows: (item, state) => ({
      CalendarItem: {
        ROWID: id(item),
        summary: textOf(item, state),
        description: null,
        start_date: cocoa(madeOn(item)),
        end_date: cocoa(madeOn(item)) + 3600,
        all_day: 0,
        calendar_id: 1,
        entity_type: 2,
        UUID: item.uuid,
      },
    }),
  },
  photos: {
    domain: 'CameraRollDomain',
    path: 'Media/PhotoData/Photos.sqlite',
    schema: `CREATE TABLE ZASSET (Z_PK INTEGER PRIMARY KEY, ZUUID TEXT, ZDIRECTORY TEXT, ZFILENAME TEXT, ZKIND INTEGER, ZTRASHEDSTATE INTEGER, ZTRASHEDDATE INTEGER, ZDATECREATED INTEGER, ZWIDTH INTEGER, ZHEIGHT INTEGER);`,
    rows: (item, state) => ({
      ZASSET: {
        Z_PK: id(item),
        ZUUID: item.uuid,
        ZDIRECTORY: 'DCIM/100APPLE',
        ZFILENAME: `${item.token}.JPG`,
        ZKIND: 0,
        ZTRASHEDSTATE: state.condition === 'binned' ? 1 : 0,
        ZTRASHEDDATE: state.binnedDay === null ? null : cocoa(state.binnedDay),
        ZDATECREATED: cocoa(madeOn(item)),
        ZWIDTH: 4032,
        ZHEIGHT: 3024,
      },
    }),
  },
  'voice-memos': {
    domain: 'MediaDomain',
    path: 'Media/Recordings/CloudRecordings.db',
    schema: `CREATE TABLE ZCLOUDRECORDING (Z_PK INTEGER PRIMARY KEY, ZUNIQUEID TEXT, ZDATE INTEGER, ZDURATION REAL, ZCUSTOMLABEL TEXT, ZPATH TEXT, ZEVICTIONDATE INTEGER);`,
    rows: (item, state) => ({
      ZCLOUDRECORDING: {
        Z_PK: id(item),
        ZUNIQUEID: item.uuid,
        ZDATE: cocoa(madeOn(item)),
        ZDURATION: 12.5,
        ZCUSTOMLABEL: item.token,
        ZPATH: `${item.token}.m4a`,
        ZEVICTIONDATE: state.binnedDay === null ? null : cocoa(state.binnedDay),
      },
    }),
  },
  bookmarks: {
    domain: 'HomeDomain',
    path: 'Library/Safari/Bookmarks.db',
    schema: `CREATE TABLE bookmarks (id INTEGER PRIMARY KEY, special_id INTEGER, parent INTEGER, type INTEGER, title TEXT, url TEXT, external_uuid TEXT, last_modified REAL, deleted INTEGER DEFAULT 0);`,
    rows: (item, state) => ({
      bookmarks: {
        id: id(item),
        special_id: 0,
        parent: 0,
        type: 0,
        title: textOf(item, state),
        url: `https://${item.token}.example/`,
        external_uuid: item.uuid,
        last_modified: cocoa(madeOn(item)),
        deleted: 0,
      },
    }),
  },
}

/** The content of a picture or a recording. */
export const contentOf = ({ token }: LifeItem): Uint8Array => Buffer.from(`content of ${token} `.repeat(40))

/** Where an item's content lies; undefined: it has none. */
export function contentPlace({ category, token }: LifeItem): { domain: string; path: string } | undefined {
  if (category === 'photos') return { domain: 'CameraRollDomain', path: `Media/DCIM/100APPLE/${token}.JPG` }
  if (category === 'voice-memos') return { domain: 'MediaDomain', path: `Media/Recordings/${token}.m4a` }
  return undefined
}

/**
 * A category's database on a device at the end of a day, by an ordinary SQLite: what was deleted by then was really
 * deleted. `empty`: with no item at all.
 */
export function storeOn(life: Life, category: LifeCategory, device: number, day: number, empty = false): StoreFile {
  const { domain, path, schema, rows } = STORES[category]
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-life-'))
  const file = join(folder, 'store.db')
  const database = new sqlite.Database(file)
  database.exec(`PRAGMA secure_delete=OFF; ${schema}; BEGIN`)
  const items = empty ? [] : life.items.filter((item) => item.category === category && everThere(item, device, day))
  for (const item of items) {
    const state = stateOn(item, device, day) ?? { condition: 'live', edits: 0, binnedDay: null }
    for (const [table, row] of Object.entries(rows(item, state)))
      database.run(
        `INSERT INTO ${table} (${Object.keys(row).join(', ')}) VALUES (${Object.keys(row).map(() => '?')})`,
        Object.values(row),
      )
  }
  database.exec('COMMIT')
  for (const item of items)
    if (!stateOn(item, device, day))
      for (const [table, row] of Object.entries(rows(item, { condition: 'live', edits: 0, binnedDay: null }))) {
        const [column, value] =
          Object.entries(row).find(([name]) => /^(ROWID|UID|Z_PK|id|message_id)$/.test(name)) ?? []
        database.run(`DELETE FROM ${table} WHERE ${column} = ?`, [value as number])
      }
  database.close()
  const bytes = readFileSync(file)
  rmSync(folder, { recursive: true, force: true })
  return { domain, path, bytes }
}
