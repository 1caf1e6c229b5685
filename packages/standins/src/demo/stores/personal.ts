import type { Random } from '../../random.js'
import { PEOPLE, type Person } from '../people.js'
import { cocoa, insert, lose, makeStore, type StoreFile, unix, type WrittenItem } from './store.js'

export interface Made {
  bytes: Uint8Array
  written: WrittenItem[]
}

const DAY_MS = 86_400_000

// Names in several scripts, and one of an organisation only.
const OTHERS: [given: string | null, family: string | null, organization: string | null][] = [
  ['נועה', 'ברק', null],
  ['美雪', '小林', 'みどり座'],
  ['Zoë', 'Ångström-Çelik', 'Lanterna e ombre'],
  [null, null, 'Velvet & Rope Supplies'],
  ['Ana 🎭', null, null],
]

const LABELS = ['_$!<Mobile>!$_', '_$!<Home>!$_', '_$!<Work>!$_', 'Workshop']

/** Contacts with labelled values and addresses; every fifth card was deleted with all that belongs to it. */
export async function contactStore(file: StoreFile, random: Random, takenAt: Date): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE ABPerson (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, First TEXT, Last TEXT, Middle TEXT, FirstPhonetic TEXT, MiddlePhonetic TEXT, LastPhonetic TEXT, Organization TEXT,
       Department TEXT, Note TEXT, Kind INTEGER, Birthday TEXT, JobTitle TEXT, Nickname TEXT, Prefix TEXT, Suffix TEXT, FirstSort TEXT, LastSort TEXT, CreationDate INTEGER,
       ModificationDate INTEGER, CompositeNameFallback TEXT, ExternalIdentifier TEXT, ExternalUUID TEXT, StoreID INTEGER, DisplayName TEXT, PersonLink INTEGER DEFAULT -1, ImageURI TEXT, guid TEXT);
     CREATE TABLE ABMultiValue (UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, identifier INTEGER, label INTEGER, value TEXT, guid TEXT);
     CREATE TABLE ABMultiValueLabel (value TEXT, UNIQUE (value));
     CREATE TABLE ABMultiValueEntry (parent_id INTEGER, key INTEGER, value TEXT, UNIQUE (parent_id, key));
     CREATE TABLE ABMultiValueEntryKey (value TEXT, UNIQUE (value))`,
    (database) => {
      for (const value of LABELS) insert(database, 'ABMultiValueLabel', { value })
      for (const value of ['Street', 'City', 'ZIP', 'Country']) insert(database, 'ABMultiValueEntryKey', { value })
      const people = [
        ...PEOPLE.map((person) => [...person.name.split(' '), null, person.address, person.trade] as const),
        ...OTHERS.map(
          ([given, family, organization], i) => [given, family, organization, `+1202555019${i}`, null] as const,
        ),
      ]
      const lost: number[] = []
      for (const [i, [First, Last, Organization, phone, JobTitle]] of people.entries()) {
        const guid = random.uuid()
        const changed = cocoa(new Date(takenAt.getTime() - random.int(5, 900) * DAY_MS))
        const id = insert(database, 'ABPerson', {
          First,
          Last,
          Organization,
          JobTitle,
          Kind: First || Last ? 0 : 1,
          Note: random.chance(0.3) ? 'Met on the autumn tour, plays at the fair.' : null,
          Birthday: random.chance(0.4)
            ? String(cocoa(new Date(Date.UTC(1960 + random.int(0, 40), random.int(0, 11), random.int(1, 28), 12))))
            : null,
          CreationDate: changed - 5000,
          ModificationDate: changed,
          guid,
        } as never)
        const value = (property: number, text: string | null, label: number) =>
          insert(database, 'ABMultiValue', {
            record_id: id,
            property,
            identifier: 0,
            label,
            value: text,
            guid: random.uuid(),
          })
        value(3, phone, 1 + (i % 4))
        value(4, `${(Last ?? First ?? 'desk').toLowerCase().replace(/[^a-z]/g, '') || 'post'}${i}@theatre.example`, 2)
        const home = value(5, null, 2)
        for (const [k, part] of [
          `${random.int(1, 90)} Bellows Lane`,
          'Saint Brannoc',
          `0${random.int(1000, 9999)}`,
          'Freedonia',
        ].entries())
          insert(database, 'ABMultiValueEntry', { parent_id: home, key: k + 1, value: part })
        const fate = file.fateOf(i)
        if (fate === 'deleted') lost.push(id)
        written.push({ key: guid, title: [First, Last].filter(Boolean).join(' ') || (Organization ?? ''), fate })
      }
      lose(
        database,
        lost.flatMap((id): [string, number][] => [
          ['DELETE FROM ABMultiValueEntry WHERE parent_id IN (SELECT UID FROM ABMultiValue WHERE record_id = ?)', id],
          ['DELETE FROM ABMultiValue WHERE record_id = ?', id],
          ['DELETE FROM ABPerson WHERE ROWID = ?', id],
        ]),
      )
    },
  )
  return { bytes, written }
}

// Every fifth card is deleted, and its name with it.
export const shownName = (person: Person): string => (PEOPLE.indexOf(person) % 5 === 3 ? person.address : person.name)

/** The log of calls in either generation of its store. */
export async function callStore(
  file: StoreFile,
  random: Random,
  takenAt: Date,
  count: number,
  legacy = false,
): Promise<Made> {
  const written: WrittenItem[] = []
  const schema = legacy
    ? 'CREATE TABLE call (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT, date INTEGER, duration INTEGER, flags INTEGER, id INTEGER, name TEXT, country_code TEXT, network_code TEXT, read INTEGER, assisted INTEGER, face_time_data BLOB, originalAddress TEXT)'
    : `CREATE TABLE ZCALLRECORD (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZANSWERED INTEGER, ZCALL_CATEGORY INTEGER, ZCALLTYPE INTEGER, ZDISCONNECTED_CAUSE INTEGER,
         ZFACE_TIME_DATA INTEGER, ZHANDLE_TYPE INTEGER, ZNUMBER_AVAILABILITY INTEGER, ZORIGINATED INTEGER, ZREAD INTEGER, ZJUNKCONFIDENCE INTEGER, ZDATE TIMESTAMP, ZDURATION FLOAT,
         ZADDRESS VARCHAR, ZDEVICE_ID VARCHAR, ZISO_COUNTRY_CODE VARCHAR, ZLOCATION VARCHAR, ZNAME VARCHAR, ZSERVICE_PROVIDER VARCHAR, ZUNIQUE_ID VARCHAR, ZLOCALPARTICIPANTUUID BLOB, ZPARTICIPANTGROUPUUID BLOB)`
  const bytes = await makeStore(file, schema, (database) => {
    const lost: number[] = []
    for (let i = 0; i < count; i++) {
      const person = random.pick(PEOPLE)
      const { address } = person
      const at = new Date(takenAt.getTime() - (count - i) * 7_000_000 - random.int(0, 3_000_000))
      const duration = random.chance(0.7) ? random.int(4, 2400) : 0
      const outgoing = random.chance(0.5)
      const uuid = random.uuid()
      const id = legacy
        ? insert(database, 'call', {
            address,
            date: unix(at),
            duration,
            flags: outgoing ? 5 : 4,
            id: -1,
            country_code: '310',
            read: 1,
          })
        : insert(database, 'ZCALLRECORD', {
            Z_ENT: 2,
            Z_OPT: 1,
            ZANSWERED: !outgoing && duration > 0 ? 1 : 0,
            ZCALL_CATEGORY: 1,
            ZCALLTYPE: random.pick([1, 1, 1, 8, 16]),
            ZDISCONNECTED_CAUSE: 0,
            ZHANDLE_TYPE: 2,
            ZORIGINATED: outgoing ? 1 : 0,
            ZREAD: 1,
            ZDATE: cocoa(at),
            ZDURATION: duration + 0.25,
            ZADDRESS: random.chance(0.5) ? Buffer.from(address) : address,
            ZISO_COUNTRY_CODE: 'us',
            ZSERVICE_PROVIDER: 'com.apple.Telephony',
            ZUNIQUE_ID: uuid,
          })
      const fate = file.fateOf(i)
      if (fate === 'deleted') lost.push(id)
      written.push({ key: legacy ? new Date(unix(at) * 1000).toISOString() : uuid, title: shownName(person), fate })
    }
    const [table, key] = legacy ? ['call', 'ROWID'] : ['ZCALLRECORD', 'Z_PK']
    lose(
      database,
      lost.map((id) => [`DELETE FROM ${table} WHERE ${key} = ?`, id]),
    )
  })
  return { bytes, written }
}
