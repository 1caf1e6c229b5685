import { execFileSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { Random } from '@lumbrin/standins/random'

/** What kind of database it is, and how large: page sizes and lengths of rows as phones have them. */
export interface UsedShape {
  kind: 'messages' | 'photos' | 'web'
  megabytes: number
  pageSize?: 4096 | 16384
}

// Pieces of words, longer than any text that is made of one.
const PIECES = 2000
const PIECE_WORDS = 250

// Five years, month by month.
const MONTHS = 60

interface Kind {
  schema: string
  /** Bytes of a row with its index entries, by measurement. */
  rowBytes: number
  /** One month's rows: `first` to `last` are their numbers; h(i, n) stands for a number below n that follows from i. */
  insert(first: number, last: number): string
  /** What goes in a month. */
  remove(month: number, first: number, last: number): string[]
}

/** A number below `below` that follows from row i, and from `salt`: the same in every run. */
const h = (salt: number, below: number) => `((i * ${2654435761 + salt * 40503} >> 7) & 0x7fffffff) % ${below}`

/** Words of `least` to `least + more` letters, of those that stand in `lexicon`. */
const words = (salt: number, least: number, more: number) =>
  `substr((SELECT t FROM temp.lexicon WHERE rowid = 1 + ${h(salt, PIECES)}), 1, ${least} + ${h(salt + 1, more)})`

const numbers = (first: number, last: number) =>
  `WITH RECURSIVE n(i) AS (SELECT ${first} UNION ALL SELECT i + 1 FROM n WHERE i < ${last})`

// Few rows go singly, in the months after they came; now and then all of a conversation, a year later.
const singly = (table: string, month: number, first: number, last: number) =>
  `DELETE FROM ${table} WHERE rowid BETWEEN ${first - 3 * (last - first)} AND ${last} AND (rowid * 40503 + ${month} * 7919) % 100 < 6;`

const KINDS: Record<UsedShape['kind'], Kind> = {
  messages: {
    schema: `CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, subject TEXT, handle_id INTEGER DEFAULT 0, service TEXT, account TEXT, body BLOB, error INTEGER DEFAULT 0, date INTEGER, date_read INTEGER, date_delivered INTEGER, is_delivered INTEGER DEFAULT 0, is_from_me INTEGER DEFAULT 0, is_read INTEGER DEFAULT 0, has_files INTEGER DEFAULT 0, reply_to TEXT, edited INTEGER DEFAULT 0);
      CREATE INDEX message_handle ON message (handle_id, date);
      CREATE TABLE room_message (room INTEGER, message INTEGER, date INTEGER, PRIMARY KEY (room, message)) WITHOUT ROWID;`,
    rowBytes: 1050,
    insert: (
      first,
      last,
    ) => `INSERT INTO message SELECT i, printf('%08X-%04X-%04X', ${h(1, 2 ** 31)}, ${h(2, 65536)}, i),
        ${words(3, 4, 260)}, NULL, ${h(4, 400)}, 'mail', 'e:odile@theatre.example', CAST(${words(5, 150, 900)} AS BLOB), 0,
        600000000000000000 + i * 300000000000, iif(${h(6, 3)}, 600000000000000000 + i * 300000000000 + 9000000, 0), 0, 1, ${h(7, 2)}, 1, ${h(8, 20)} = 0,
        iif(${h(9, 12)}, NULL, printf('%08X', ${h(10, 2 ** 31)})), 0 FROM n;
      ${numbers(first, last)} INSERT INTO room_message SELECT ${h(4, 400)}, i, 600000000000000000 + i * 300000000000 FROM n;`,
    remove: (month, first, last) => [
      singly('message', month, first, last),
      `DELETE FROM message WHERE handle_id = ${(month * 7) % 400} AND rowid < ${first - 12 * (last - first)};`,
    ],
  },
  photos: {
    schema: `CREATE TABLE asset (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, kind INTEGER, favourite INTEGER, hidden INTEGER, binned INTEGER, created REAL, added REAL, changed REAL, latitude REAL, longitude REAL, width INTEGER, height INTEGER, duration REAL, folder TEXT, name TEXT, uuid TEXT, place BLOB, faces BLOB);
      CREATE INDEX asset_created ON asset (created); CREATE INDEX asset_uuid ON asset (uuid);`,
    rowBytes: 760,
    insert: (
      first,
      last,
    ) => `INSERT INTO asset SELECT i, 3, 1 + ${h(1, 9)}, ${h(2, 10)} = 0, ${h(3, 30)} = 0, 0, 0, 500000000.25 + i * 300, 500000001.5 + i * 300, 500000001.5 + i * 300 + ${h(4, 900)},
        48.2 + ${h(5, 1000)} / 7001.0, 16.3 + ${h(6, 1000)} / 7001.0, 4032, 3024, 0, printf('DCIM/%dARCHIVE', 100 + i / 1000), printf('IMG_%04d.JPG', i % 10000),
        printf('%08X-%08X-%04X', ${h(7, 2 ** 31)}, i, ${h(8, 65536)}), CAST(${words(9, 200, 300)} AS BLOB), iif(${h(10, 4)}, NULL, CAST(${words(11, 40, 400)} AS BLOB)) FROM n;
      UPDATE asset SET favourite = 1, Z_OPT = Z_OPT + 1, changed = changed + 86400 WHERE Z_PK BETWEEN ${first} AND ${last} AND Z_PK % 37 = 0;`,
    remove: (month, first, last) => [singly('asset', month, first, last)],
  },
  web: {
    schema: `CREATE TABLE page (id INTEGER PRIMARY KEY, url TEXT NOT NULL UNIQUE, domain TEXT, visits INTEGER NOT NULL, score INTEGER);
      CREATE TABLE visit (id INTEGER PRIMARY KEY, page INTEGER NOT NULL, time REAL NOT NULL, title TEXT, good BOOLEAN DEFAULT 1, origin INTEGER);
      CREATE INDEX visit_page ON visit (page, time);`,
    rowBytes: 150,
    insert: (
      first,
      last,
    ) => `INSERT INTO page SELECT i, 'https://' || lower(hex(substr(${words(1, 4, 12)}, 1, 4))) || '.example/' || i || '/' || replace(${words(2, 20, 90)}, ' ', '-'), ${words(3, 6, 8)}, 1 + ${h(4, 9)}, ${h(5, 1000)} FROM n;
      ${numbers(first, last)} INSERT INTO visit SELECT i, i - ${h(6, 40)}, 500000000.5 + i * 60, ${words(7, 10, 60)}, 1, ${h(8, 3)} FROM n;`,
    remove: (month, first, last) => [
      singly('visit', month, first, last),
      // History is kept for a year.
      `DELETE FROM visit WHERE rowid < ${first - 12 * (last - first)} AND rowid % 3 > 0;`,
      `DELETE FROM page WHERE rowid < ${first - 12 * (last - first)} AND rowid % 5 > 0;`,
    ],
  },
}

const ALPHABET = [
  'stage',
  'string',
  'wood',
  'lantern',
  'fold',
  'paint',
  'evening',
  'rehearsal',
  'Odile',
  'curtain',
  'ferry',
  'ö',
  'Žofie',
  '2026',
]

/**
 * Makes a database as five years of use leave one, by SQLite's own shell: rows of 200 to 2,000 bytes come month by month
 * and go one by one, so that freeblocks and gaps lie on nearly every page; freed pages are given back bit by bit
 * (auto_vacuum incremental), and a log of some 4 MB lies beside it.
 */
export function makeUsed(path: string, { kind, megabytes, pageSize = 4096 }: UsedShape): void {
  for (const end of ['', '-wal', '-shm', '.making', '.making-wal', '.making-shm']) rmSync(path + end, { force: true })
  const { schema, rowBytes, insert, remove } = KINDS[kind]
  const perMonth = Math.ceil((megabytes * 1e6) / rowBytes / MONTHS)
  const random = new Random(11)
  const piece = () => Array.from({ length: PIECE_WORDS }, () => random.pick(ALPHABET)).join(' ')
  const sql = [
    `PRAGMA page_size=${pageSize}; PRAGMA auto_vacuum=INCREMENTAL; PRAGMA secure_delete=OFF; PRAGMA synchronous=OFF; PRAGMA journal_mode=OFF;`,
    'CREATE TEMP TABLE lexicon (t TEXT);',
    ...Array.from({ length: PIECES }, () => `INSERT INTO temp.lexicon VALUES ('${piece()}');`),
    schema,
  ]
  for (let month = 0; month < MONTHS; month++) {
    const first = month * perMonth + 1
    const last = first + perMonth - 1
    if (month === MONTHS - 1) sql.push('PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;')
    const part = Math.ceil(perMonth / 20)
    // The last month's first days lie in the log.
    const end = month === MONTHS - 1 ? Math.min(last, first + Math.min(part, 2000)) : last
    sql.push(
      `BEGIN; ${numbers(first, end)} ${insert(first, end)}`,
      ...(month < MONTHS - 1 ? remove(month, first, last) : []),
    )
    sql.push('COMMIT; PRAGMA incremental_vacuum(10);')
  }
  // Copied while it is open: when it is closed the log is written back.
  sql.push(`.shell cp '${path}.making' '${path}'; cp '${path}.making-wal' '${path}-wal'`)
  execFileSync('sqlite3', [`${path}.making`], { input: sql.join('\n'), stdio: ['pipe', 'ignore', 'inherit'] })
  for (const end of ['', '-wal', '-shm']) rmSync(`${path}.making${end}`, { force: true })
}
