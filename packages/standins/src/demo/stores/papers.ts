import { gzipSync } from 'node:zlib'
import { BinaryWriter } from '@bufbuild/protobuf/wire'
import type { Random } from '../../random.js'
import { NOTE_TABLE, noteTable, TABLE_TYPE } from './note-table.js'
import type { Made } from './personal.js'
import { cocoa, insert, lose, makeStore, type StoreDatabase, type StoreFile, type WrittenItem } from './store.js'

const DAY_MS = 86_400_000
const TOPICS = [
  'Set list for Saint Brannoc',
  'Paints to buy 🎨',
  'Route over the pass',
  'שיר לבובות',
  '人形の修理',
  'Who plays the fox?',
  'Stage measures',
  'Van inspection',
]
const LINES = [
  'two lamps, spare bulbs',
  'glue, cord, felt',
  'ask Leda about the screen',
  'curtain opens left',
  '14 chairs are missing',
  'third act needs a drum',
]

/**
 * A note's document as the device writes it: a title, then a line each, some of them ticked. `attached`: the identifier
 * of the table that takes the place of the last line.
 */
export function noteDocument(lines: readonly string[], ticked: number, attached?: string): Uint8Array {
  const text = lines.join('\n')
  const note = new BinaryWriter().tag(2, 2).string(text)
  lines.forEach((line, i) => {
    const style = new BinaryWriter().tag(1, 0).uint32(i === 0 ? 0 : 103)
    if (i > 0)
      style.tag(5, 2).bytes(
        new BinaryWriter()
          .tag(1, 2)
          .bytes(new Uint8Array(16).fill(i))
          .tag(2, 0)
          .uint32(i <= ticked ? 1 : 0)
          .finish(),
      )
    const run = new BinaryWriter()
      .tag(1, 0)
      .uint32(line.length + (i < lines.length - 1 ? 1 : 0))
      .tag(2, 2)
      .bytes(style.finish())
    if (attached && i === lines.length - 1)
      run.tag(12, 2).bytes(new BinaryWriter().tag(1, 2).string(attached).tag(2, 2).string(TABLE_TYPE).finish())
    note.tag(5, 2).bytes(run.finish())
  })
  const document = new BinaryWriter().tag(2, 0).uint32(0).tag(3, 2).bytes(note.finish()).finish()
  return gzipSync(new BinaryWriter().tag(1, 0).uint32(0).tag(2, 2).bytes(document).finish())
}

/** The picture that hangs on the first note, and where it lies. */
export const NOTE_PICTURE = {
  account: '4C2A0B6E-0001-4A55-8F10-7D3E5B9A0001',
  media: '4C2A0B6E-0002-4A55-8F10-7D3E5B9A0002',
  name: 'stage sketch.jpg',
  path: 'Accounts/4C2A0B6E-0001-4A55-8F10-7D3E5B9A0001/Media/4C2A0B6E-0002-4A55-8F10-7D3E5B9A0002/stage sketch.jpg',
}

/** Notes in folders, some in the bin, some deleted with their text, one locked. */
export async function noteStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE Z_PRIMARYKEY (Z_ENT INTEGER PRIMARY KEY, Z_NAME VARCHAR, Z_SUPER INTEGER, Z_MAX INTEGER);
     CREATE TABLE ZICCLOUDSYNCINGOBJECT (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZIDENTIFIER VARCHAR, ZMARKEDFORDELETION INTEGER, ZISPASSWORDPROTECTED INTEGER,
       ZISPINNED INTEGER, ZNOTEDATA INTEGER, ZFOLDER INTEGER, ZPARENT INTEGER, ZFOLDERTYPE INTEGER, ZTITLE1 VARCHAR, ZTITLE2 VARCHAR, ZSNIPPET VARCHAR, ZNAME VARCHAR,
       ZCREATIONDATE1 TIMESTAMP, ZMODIFICATIONDATE1 TIMESTAMP, ZNOTE INTEGER, ZMEDIA INTEGER, ZTYPEUTI VARCHAR, ZFILENAME VARCHAR, ZFILESIZE INTEGER, ZMERGEABLEDATA1 BLOB);
     CREATE TABLE ZICNOTEDATA (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZNOTE INTEGER, ZCRYPTOINITIALIZATIONVECTOR BLOB, ZCRYPTOTAG BLOB, ZDATA BLOB);
     INSERT INTO Z_PRIMARYKEY VALUES (10, 'ICNote', 0, 0), (14, 'ICFolder', 0, 0), (4, 'ICAttachment', 0, 0), (11, 'ICMedia', 0, 0)`,
    (database) => {
      const folders = [
        ['Notes', 0],
        ['Tour', 0],
        ['Recently Deleted', 1],
      ].map(([ZTITLE2, ZFOLDERTYPE]) =>
        insert(database, 'ZICCLOUDSYNCINGOBJECT', {
          Z_ENT: 14,
          Z_OPT: 1,
          ZIDENTIFIER: random.uuid(),
          ZTITLE2,
          ZFOLDERTYPE,
        }),
      )
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const title = `${random.pick(TOPICS)} ${i + 1}`
        const lines = [title, ...Array.from({ length: random.int(1, 5) }, () => random.pick(LINES))]
        const uuid = random.uuid()
        const fate = file.fateOf(i, true)
        const changed = cocoa(
          new Date(takenAt.getTime() - (fate === 'binned' ? random.int(1, 20) : random.int(1, 700)) * DAY_MS),
        )
        const locked = i === 6
        const note = insert(database, 'ZICCLOUDSYNCINGOBJECT', {
          Z_ENT: 10,
          Z_OPT: 2,
          ZIDENTIFIER: uuid,
          ZMARKEDFORDELETION: 0,
          ZISPASSWORDPROTECTED: locked ? 1 : 0,
          ZFOLDER: folders[fate === 'binned' ? 2 : i % 2],
          ZTITLE1: title,
          ZSNIPPET: lines[1],
          ZCREATIONDATE1: changed - 90_000,
          ZMODIFICATIONDATE1: changed,
        })
        if (i === 0) hangPicture(database, note, random)
        const table = i === 2 ? hangTable(database, note) : undefined
        const data = insert(database, 'ZICNOTEDATA', {
          Z_ENT: 19,
          Z_OPT: 1,
          ZNOTE: note,
          ZDATA: locked ? Buffer.from(random.uuid()) : noteDocument(table ? [...lines, '\u{fffc}'] : lines, 1, table),
        })
        database.run('UPDATE ZICCLOUDSYNCINGOBJECT SET ZNOTEDATA = ? WHERE Z_PK = ?', [data, note])
        if (fate === 'deleted')
          lost.push(
            ['DELETE FROM ZICNOTEDATA WHERE Z_PK = ?', data],
            ['DELETE FROM ZICCLOUDSYNCINGOBJECT WHERE Z_PK = ?', note],
          )
        written.push({ key: uuid, title, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}

const TABLE_IDENTIFIER = '4C2A0B6E-0003-4A55-8F10-7D3E5B9A0003'

function hangTable(database: StoreDatabase, note: number): string {
  insert(database, 'ZICCLOUDSYNCINGOBJECT', {
    Z_ENT: 4,
    ZIDENTIFIER: TABLE_IDENTIFIER,
    ZNOTE: note,
    ZTYPEUTI: TABLE_TYPE,
    ZMERGEABLEDATA1: noteTable(NOTE_TABLE),
  })
  return TABLE_IDENTIFIER
}

function hangPicture(database: StoreDatabase, note: number, random: Random): void {
  const media = insert(database, 'ZICCLOUDSYNCINGOBJECT', {
    Z_ENT: 11,
    ZIDENTIFIER: NOTE_PICTURE.media,
    ZFILENAME: NOTE_PICTURE.name,
  })
  insert(database, 'ZICCLOUDSYNCINGOBJECT', {
    Z_ENT: 4,
    ZIDENTIFIER: random.uuid(),
    ZNOTE: note,
    ZMEDIA: media,
    ZTYPEUTI: 'public.jpeg',
  })
}

const SHOWS = [
  'The Fox and the Tailor',
  'Shadow evening',
  'Workshop for children',
  'Load-in',
  'Rehearsal with violin',
  '人形劇',
  'Dentist',
]

/** Events with repetitions and alarms, and whole days. */
export async function eventStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE Calendar (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, store_id INTEGER, title TEXT, flags INTEGER, color TEXT, external_id TEXT, UUID TEXT);
     CREATE TABLE CalendarItem (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, summary TEXT, location_id INTEGER, description TEXT, start_date REAL, start_tz TEXT, end_date REAL, end_tz TEXT,
       all_day INTEGER, calendar_id INTEGER, orig_item_id INTEGER, orig_date REAL, organizer_id INTEGER, status INTEGER, url TEXT, last_modified REAL, unique_identifier TEXT, UUID TEXT,
       entity_type INTEGER, priority INTEGER, due_date REAL, due_tz TEXT, completion_date REAL, creation_date REAL, has_recurrences INTEGER, has_attendees INTEGER, hidden INTEGER);
     CREATE TABLE Location (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, title TEXT, address TEXT, latitude REAL, longitude REAL, item_owner_id INTEGER);
     CREATE TABLE Alarm (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, trigger_date REAL, trigger_interval INTEGER, type INTEGER, calendaritem_owner_id INTEGER, UUID TEXT, disabled INTEGER);
     CREATE TABLE Recurrence (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, frequency INTEGER, interval INTEGER, week_start INTEGER, count INTEGER, end_date REAL, specifier TEXT, by_month_months INTEGER, owner_id INTEGER)`,
    (database) => {
      for (const title of ['Tour', 'Private']) insert(database, 'Calendar', { title, flags: 0 })
      const barn = insert(database, 'Location', { title: 'The old barn, Saint Brannoc' })
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const uuid = random.uuid()
        const summary = `${random.pick(SHOWS)} ${i + 1}`
        const allDay = i % 6 === 5
        const day = Math.floor((takenAt.getTime() + random.int(-200, 120) * DAY_MS) / DAY_MS) * DAY_MS
        const start = new Date(day + (allDay ? 0 : random.int(7, 20) * 3_600_000))
        const id = insert(database, 'CalendarItem', {
          summary,
          location_id: i % 3 === 0 ? barn : 0,
          description: random.chance(0.4) ? 'Bring the blue trunk.' : null,
          start_date: cocoa(start),
          start_tz: allDay ? '_float' : 'Europe/Vienna',
          end_date: cocoa(new Date(start.getTime() + (allDay ? DAY_MS - 1000 : 5_400_000))),
          end_tz: allDay ? '_float' : 'Europe/Vienna',
          all_day: allDay ? 1 : 0,
          calendar_id: 1 + (i % 2),
          status: 0,
          last_modified: cocoa(takenAt) - i * 1000,
          unique_identifier: uuid,
          UUID: uuid,
          entity_type: 2,
          creation_date: cocoa(takenAt) - i * 2000,
          has_recurrences: i % 7 === 0 ? 1 : 0,
          hidden: 0,
        })
        if (i % 7 === 0) insert(database, 'Recurrence', { frequency: 2, interval: 1, count: 6, owner_id: id })
        if (i % 4 === 0)
          insert(database, 'Alarm', {
            trigger_interval: -1800,
            type: 1,
            calendaritem_owner_id: id,
            UUID: random.uuid(),
            disabled: 0,
          })
        const fate = file.fateOf(i)
        if (fate === 'deleted')
          lost.push(
            ['DELETE FROM Alarm WHERE calendaritem_owner_id = ?', id],
            ['DELETE FROM CalendarItem WHERE ROWID = ?', id],
          )
        written.push({ key: uuid, title: summary, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}

/** Reminders in lists; one was only marked deleted. */
export async function reminderStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE ZREMCDREMINDER (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZALLDAY INTEGER, ZCOMPLETED INTEGER, ZFLAGGED INTEGER, ZMARKEDFORDELETION INTEGER,
       ZPRIORITY INTEGER, ZLIST INTEGER, ZPARENTREMINDER INTEGER, ZCREATIONDATE TIMESTAMP, ZLASTMODIFIEDDATE TIMESTAMP, ZDUEDATE TIMESTAMP, ZCOMPLETIONDATE TIMESTAMP, ZTITLE VARCHAR,
       ZNOTES VARCHAR, ZTIMEZONE VARCHAR, ZCKIDENTIFIER VARCHAR);
     CREATE TABLE ZREMCDBASELIST (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZMARKEDFORDELETION INTEGER, ZNAME VARCHAR, ZCKIDENTIFIER VARCHAR)`,
    (database) => {
      for (const ZNAME of ['Workshop', 'Van'])
        insert(database, 'ZREMCDBASELIST', {
          Z_ENT: 3,
          Z_OPT: 1,
          ZMARKEDFORDELETION: 0,
          ZNAME,
          ZCKIDENTIFIER: random.uuid(),
        })
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const uuid = random.uuid()
        const title = `${random.pick(['Oil the wheels', 'Mend the fox', 'Call the mayor', 'Order felt', '買い物', 'Pay the carpenter'])} ${i + 1}`
        const created = cocoa(takenAt) - random.int(1, 300) * 86_400
        const id = insert(database, 'ZREMCDREMINDER', {
          Z_ENT: 30,
          Z_OPT: 1,
          ZALLDAY: 0,
          ZCOMPLETED: i % 3 === 0 ? 1 : 0,
          ZFLAGGED: i % 8 === 0 ? 1 : 0,
          ZMARKEDFORDELETION: 0,
          ZPRIORITY: 0,
          ZLIST: 1 + (i % 2),
          ZCREATIONDATE: created,
          ZLASTMODIFIEDDATE: created + 60,
          ZDUEDATE: i % 2 ? created + 200_000 : null,
          ZCOMPLETIONDATE: i % 3 === 0 ? created + 150_000 : null,
          ZTITLE: title,
          ZNOTES: random.chance(0.3) ? 'before the tour' : null,
          ZTIMEZONE: 'Europe/Vienna',
          ZCKIDENTIFIER: uuid,
        })
        const fate = file.fateOf(i)
        if (fate === 'deleted') lost.push(['DELETE FROM ZREMCDREMINDER WHERE Z_PK = ?', id])
        written.push({ key: uuid, title, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}
