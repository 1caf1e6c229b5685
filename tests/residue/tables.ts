import type { Random } from '@lumbrin/standins/random'
import type { Value } from './recorded.js'

/** A table as SQL makes it, and how its values are made up. */
export interface TableSpec {
  name: string
  sql: string
  columns: { name: string; make: (random: Random, i: number) => Value; real?: boolean }[]
  /** Column that is the rowid; null: a table without rowid, told by its `key`. */
  alias: string | null
  rowids: boolean
  key: string[]
}

const WORDS =
  'lantern curtain fox moon string stage puppet paper thunder violin harbour mill barn velvet glue paint hinge wagon ticket poster snow'.split(
    ' ',
  )
const words = (random: Random, low: number, high: number) =>
  Array.from({ length: random.int(low, high) }, () => random.pick(WORDS)).join(' ')
export const text = (low: number, high: number) => (random: Random) =>
  random.chance(0.06) ? `é漢😀 ${words(random, low, high)}` : words(random, low, high)
const maybe =
  (make: (random: Random, i: number) => Value, probability = 0.8) =>
  (random: Random, i: number) =>
    random.chance(probability) ? make(random, i) : null
const int = (low: number, high: number) => (random: Random) => random.int(low, high)
const date = (random: Random) => 7e17 + random.int(0, 90_000_000) * 1e9
const real = (random: Random) => Math.round(random.next() * 1e9) / 1e3 + 0.125
const blob = (low: number, high: number) => (random: Random) =>
  Uint8Array.from({ length: random.int(low, high) }, () => random.int(0, 255))

/** Tables that the engine was made with. */
export const TABLES: TableSpec[] = [
  {
    name: 'message',
    alias: 'ROWID',
    rowids: true,
    key: ['ROWID'],
    sql: 'CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, handle_id INTEGER DEFAULT 0, subject TEXT, service TEXT, date INTEGER, date_read INTEGER, is_from_me INTEGER DEFAULT 0, is_read INTEGER DEFAULT 0, payload BLOB)',
    columns: [
      { name: 'guid', make: (random) => random.uuid() },
      { name: 'text', make: maybe(text(1, 30), 0.95) },
      { name: 'handle_id', make: int(0, 300) },
      { name: 'subject', make: maybe(text(1, 4), 0.1) },
      { name: 'service', make: (random) => random.pick(['mail', 'text']) },
      { name: 'date', make: date },
      { name: 'date_read', make: maybe(date, 0.5) },
      { name: 'is_from_me', make: int(0, 1) },
      { name: 'is_read', make: int(0, 1) },
      { name: 'payload', make: maybe(blob(4, 40), 0.1) },
    ],
  },
  {
    name: 'person',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: 'CREATE TABLE person (id INTEGER PRIMARY KEY, first TEXT, last TEXT, birthday REAL, score INTEGER, note TEXT)',
    columns: [
      { name: 'first', make: text(1, 1) },
      { name: 'last', make: text(1, 2) },
      { name: 'birthday', make: maybe(real), real: true },
      { name: 'score', make: int(-5, 70000) },
      { name: 'note', make: maybe(text(3, 12), 0.4) },
    ],
  },
  {
    name: 'joined',
    alias: null,
    rowids: true,
    key: ['a', 'b'],
    sql: 'CREATE TABLE joined (a INTEGER, b INTEGER, at INTEGER DEFAULT 0, PRIMARY KEY (a, b))',
    columns: [
      { name: 'a', make: int(1, 40) },
      { name: 'b', make: (_, i) => i + 1 },
      { name: 'at', make: date },
    ],
  },
  {
    name: 'visit',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: 'CREATE TABLE visit (id INTEGER PRIMARY KEY AUTOINCREMENT, item INTEGER NOT NULL, time REAL NOT NULL, title TEXT, ok BOOLEAN NOT NULL DEFAULT 1)',
    columns: [
      { name: 'item', make: int(1, 900) },
      { name: 'time', make: real, real: true },
      { name: 'title', make: maybe(text(1, 6)) },
      { name: 'ok', make: int(0, 1) },
    ],
  },
  {
    name: 'long',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: 'CREATE TABLE long (id INTEGER PRIMARY KEY, body TEXT, data BLOB)',
    columns: [
      { name: 'body', make: text(20, 500) },
      { name: 'data', make: maybe(blob(0, 3000), 0.4) },
    ],
  },
  {
    name: 'keyed',
    alias: null,
    rowids: false,
    key: ['k', 'n'],
    sql: 'CREATE TABLE keyed (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID',
    columns: [
      { name: 'k', make: (random, i) => `${random.pick(WORDS)}-${i}` },
      { name: 'n', make: int(1, 500) },
      { name: 'v', make: maybe(text(1, 8)) },
    ],
  },
]

const uuid = (random: Random) => random.uuid()
const scattered = (_: Random, i: number) => (i * 7919) % 1_000_003
// Few enough digits that SQL's text says them exactly.
const stamp = (random: Random) => 7.6e8 + random.int(0, 9e7) + random.int(1, 15) / 16
const isoDate = (random: Random) =>
  new Date(1.76e12 + random.int(0, 3e7) * 1000).toISOString().slice(0, 19).replace('T', ' ')
const numbered = (name: string) => (random: Random, i: number) => `${name}.${random.pick(WORDS)}.${i}`

/** Tables of other kinds, for checking what was fitted from the first ones: nothing in the engine knows them. */
export const OTHER_TABLES: TableSpec[] = [
  {
    name: 'ZMEMO',
    alias: 'Z_PK',
    rowids: true,
    key: ['Z_PK'],
    sql: `CREATE TABLE ZMEMO ( Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZFOLDER INTEGER, ZPINNED INTEGER, ZCREATED TIMESTAMP, ZCHANGED TIMESTAMP, ZTITLE VARCHAR, ZUUID VARCHAR, ZDATA BLOB );
      CREATE INDEX Z_MEMO_FOLDER ON ZMEMO (ZFOLDER COLLATE BINARY ASC)`,
    columns: [
      { name: 'Z_ENT', make: () => 4 },
      { name: 'Z_OPT', make: int(1, 30) },
      { name: 'ZFOLDER', make: maybe(int(1, 12)) },
      { name: 'ZPINNED', make: int(0, 1) },
      { name: 'ZCREATED', make: stamp },
      { name: 'ZCHANGED', make: maybe(stamp) },
      { name: 'ZTITLE', make: text(1, 7) },
      { name: 'ZUUID', make: uuid },
      { name: 'ZDATA', make: maybe(blob(10, 400), 0.5) },
    ],
  },
  ...['liked', 'shared'].map((name, which) => ({
    name,
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: `CREATE TABLE ${name} (id INTEGER PRIMARY KEY, who INTEGER, what INTEGER, at INTEGER, via TEXT)`,
    columns: [
      { name: 'id', make: scattered },
      { name: 'who', make: int(1 + 400 * which, 50 + 400 * which) },
      { name: 'what', make: int(1000, 90_000) },
      { name: 'at', make: int(1_760_000_000, 1_790_000_000) },
      { name: 'via', make: maybe(text(1, 2)) },
    ],
  })),
  {
    name: 'settings',
    alias: null,
    rowids: true,
    key: ['name'],
    sql: 'CREATE TABLE settings (name TEXT PRIMARY KEY, value, kind)',
    columns: [
      { name: 'name', make: numbered('set') },
      { name: 'value', make: (random) => random.pick([text(1, 5), int(-40_000, 40_000), blob(3, 30)])(random) },
      { name: 'kind', make: int(2, 5) },
    ],
  },
  {
    name: 'tile',
    alias: null,
    rowids: false,
    key: ['z', 'x', 'y'],
    sql: 'CREATE TABLE tile (z INTEGER, x INTEGER, y INTEGER, data BLOB, etag TEXT, PRIMARY KEY (z, x, y)) WITHOUT ROWID',
    columns: [
      { name: 'z', make: int(9, 16) },
      { name: 'x', make: int(200, 60_000) },
      { name: 'y', make: (_, i) => 1000 + i },
      { name: 'data', make: maybe(blob(20, 200), 0.9) },
      { name: 'etag', make: uuid },
    ],
  },
  {
    name: 'event_log',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: `CREATE TABLE event_log (id INTEGER PRIMARY KEY AUTOINCREMENT, stamp DATETIME NOT NULL, level VARCHAR(10) NOT NULL, area TEXT NOT NULL, line TEXT, amount DECIMAL(10,2), flag BOOL DEFAULT 0);
      CREATE INDEX log_by_stamp ON event_log (stamp, level)`,
    columns: [
      { name: 'stamp', make: isoDate },
      { name: 'level', make: (random) => random.pick(['info', 'warn', 'error']) },
      { name: 'area', make: text(1, 1) },
      { name: 'line', make: maybe(text(2, 20), 0.9) },
      { name: 'amount', make: maybe((random) => random.int(-900, 90_000) + 0.25, 0.5) },
      { name: 'flag', make: int(0, 1) },
    ],
  },
  {
    name: 'wide',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: `CREATE TABLE wide (id INTEGER PRIMARY KEY, ${Array.from({ length: 70 }, (_, i) => `f${i} ${i % 9 === 0 ? 'TEXT' : 'INTEGER'}`).join(', ')})`,
    columns: Array.from({ length: 70 }, (_, i) => ({
      name: `f${i}`,
      make: i % 9 === 0 ? maybe(text(1, 12), 0.5) : maybe(int(-300, 100_000), i % 4 === 0 ? 0.9 : 0.2),
    })),
  },
  {
    name: 'counted',
    alias: 'id',
    rowids: true,
    key: ['id'],
    sql: 'CREATE TABLE counted (id INTEGER PRIMARY KEY, name TEXT NOT NULL, n INT, ratio REAL) STRICT',
    columns: [
      { name: 'name', make: text(1, 4) },
      { name: 'n', make: int(-2, 2_000_000) },
      { name: 'ratio', make: real, real: true },
    ],
  },
  {
    name: 'odd table',
    alias: null,
    rowids: true,
    key: ['the name'],
    sql: 'CREATE TABLE [odd table] ("the name" TEXT, "order" INTEGER, `when` REAL, [group] CHARACTER(20))',
    columns: [
      { name: 'the name', make: numbered('odd') },
      { name: 'order', make: int(0, 90) },
      { name: 'when', make: maybe(real, 0.7), real: true },
      { name: 'group', make: text(1, 2) },
    ],
  },
]
