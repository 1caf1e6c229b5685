import { copyFileSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { catalogueOf, USE } from './catalogue.js'
import { readHeader } from './header.js'
import { readJournal } from './journal.js'
import { openDatabase } from './open.js'
import { rebuildRows } from './residue/rebuild.js'
import { readWal } from './wal.js'

const FILL =
  "CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT); WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 300) INSERT INTO t SELECT x, printf('row %d of the table', x) FROM c;"

const FILL_MANY = FILL.replace('300', '3000')

/** Runs SQL and gives the files as they lie on disk while the database is still open. */
function filesOf(mode: 'WAL' | 'PERSIST', ...steps: string[]) {
  const file = join(scratchFolder(), 'made.db')
  const database = new sqlite.Database(file)
  database.exec(
    mode === 'WAL'
      ? 'PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;'
      : 'PRAGMA journal_mode=PERSIST;',
  )
  for (const step of steps) database.exec(step)
  const log = mode === 'WAL' ? `${file}-wal` : `${file}-journal`
  copyFileSync(file, `${file}.copy`)
  copyFileSync(log, `${log}.copy`)
  database.close()
  return { main: readFileSync(`${file}.copy`), log: readFileSync(`${log}.copy`) }
}

const words = (main: Buffer, log: { wal?: Buffer; journal?: Buffer }) => {
  const opened = openDatabase(
    {
      main: new MemorySource(main),
      wal: log.wal && new MemorySource(log.wal),
      journal: log.journal && new MemorySource(log.journal),
    },
    () => {},
  )
  return [...opened.database.rows('t')].map((row) => row.values.w)
}

describe('the write-ahead log', () => {
  it('says what the first page of the database is, until it is written back', () => {
    const { main, log } = filesOf('WAL', FILL, 'PRAGMA secure_delete=OFF; DELETE FROM t WHERE id > 50')
    const { database } = openDatabase({ main: new MemorySource(main), wal: new MemorySource(log) }, () => {})
    expect(readHeader(new MemorySource(main)).firstTrunk).toBe(0)
    expect(database.pager.header.firstTrunk).toBeGreaterThan(1)
    expect(catalogueOf(database).use).toContain(USE.freeTrunk)
  })

  // "WAL-mode File Format", section 4.2; values computed by hand in the reference.
  it.each([
    ['377f0682002de2180000020000000000000000010000000 2d5cb03138fa4dab8', 512],
    ['377f0683002de2180000020000000000000000010000000 21604cad8bcdda493', 512],
  ])('knows a right header checksum', (hex, pageSize) => {
    const header = Buffer.from(hex.replace(' ', ''), 'hex')
    expect(readWal(new MemorySource(header), pageSize, () => {})).toEqual({ frames: [], overlay: null })
  })

  it('is part of what the database shows', () => {
    const { main, log } = filesOf('WAL', FILL, "UPDATE t SET w = 'changed' WHERE id = 7", 'DELETE FROM t WHERE id = 8')
    const shown = words(main, { wal: log })
    expect(shown.length).toBe(299)
    expect(shown).toContain('changed')
    expect(shown).not.toContain('row 7 of the table')
  })

  it('counts only as far as its checksums are right', () => {
    const { main, log } = filesOf('WAL', FILL, "UPDATE t SET w = 'changed' WHERE id = 7")
    const cut = Buffer.from(log)
    cut.write('CHANGED', cut.indexOf('changed'))
    const shown = words(main, { wal: cut })
    expect(shown.length).toBe(300)
    expect(shown).toContain('row 7 of the table')
    const read = readWal(new MemorySource(cut), 4096, () => {})
    expect(read?.frames.at(-1)?.age).toBe('stale')
  })

  it('keeps an earlier round apart from the present one', () => {
    const { main, log } = filesOf(
      'WAL',
      FILL,
      'PRAGMA wal_checkpoint(RESTART)',
      "UPDATE t SET w = 'changed' WHERE id = 7",
    )
    const read = readWal(new MemorySource(log), 4096, () => {})
    expect(new Set(read?.frames.map((frame) => frame.age))).toEqual(new Set(['current', 'stale']))
    expect(words(main, { wal: log })).toContain('changed')
  })

  it('may claim more pages than there are: what is there is still read', () => {
    const { main, log } = filesOf(
      'WAL',
      FILL,
      'PRAGMA wal_checkpoint(TRUNCATE)',
      "UPDATE t SET w = 'changed' WHERE id = 7",
    )
    const shown = words(main.subarray(0, main.length - 4096), { wal: log })
    expect(shown.length).toBeGreaterThan(100)
    const opened = openDatabase(
      { main: new MemorySource(main.subarray(0, main.length - 4096)), wal: new MemorySource(log) },
      () => {},
    )
    expect(() => [...rebuildRows(opened)]).not.toThrow()
  })

  it('of other pages is left out, with a warning', () => {
    const { log } = filesOf('WAL', FILL)
    const warned = warnings()
    expect(readWal(new MemorySource(log), 1024, warned.report)).toBeUndefined()
    expect(warned.list[0]?.code).toBe('wal-unfit')
  })

  it.each([Buffer.alloc(0), Buffer.alloc(31), Buffer.from('no log at all, but long enough to be one')])(
    'is none: %#',
    (bytes) => {
      expect(readWal(new MemorySource(bytes), 4096, () => {})).toBeUndefined()
    },
  )
})

/** A journal whose header was zeroed, with the one that SQLite had written: for so many records, of so many pages. */
function heated(log: Buffer, count: number, pageCount: number): Buffer {
  const hot = Buffer.from(log)
  Buffer.from('d9d505f920a163d7', 'hex').copy(hot)
  let sum = 0
  for (let at = 4096 - 200; at > 0; at -= 200) sum += hot[516 + at] ?? 0
  hot.writeUInt32BE(count, 8)
  hot.writeUInt32BE((hot.readUInt32BE(516 + 4096) - sum) >>> 0, 12)
  hot.writeUInt32BE(pageCount, 16)
  hot.writeUInt32BE(512, 20)
  hot.writeUInt32BE(4096, 24)
  return hot
}

describe('the rollback journal', () => {
  it('that persisted is a leftover, and not rolled back', () => {
    const { main, log } = filesOf('PERSIST', FILL, 'DELETE FROM t WHERE id = 7')
    const read = readJournal(new MemorySource(log), 4096)
    expect(read?.overlay).toBeNull()
    expect(read?.pages.length).toBeGreaterThan(0)
    expect(words(main, { journal: log }).length).toBe(299)
  })

  it('that is hot is rolled back before anything counts as live', () => {
    const { main, log } = filesOf('PERSIST', FILL, 'DELETE FROM t WHERE id = 7')
    const hot = heated(log, 0xffffffff, main.length / 4096)
    expect(words(main, { journal: hot }).length).toBe(300)
  })

  // Two transactions in it have left one record and many: each is shorter than the one before.
  const thrice = (last: number) => [
    FILL_MANY,
    "UPDATE t SET w = 'first ' || w",
    "UPDATE t SET w = 'second ' || w WHERE id <= 1000",
    `UPDATE t SET w = 'third ' || w WHERE id <= ${last}`,
  ]

  it('that persisted holds what a shorter transaction left of longer ones, also one record alone', () => {
    const { main, log } = filesOf('PERSIST', ...thrice(900))
    const read = readJournal(new MemorySource(log), 4096)
    expect(read?.pages.length).toBe(Math.floor((log.length - 512) / (4096 + 8)))
    const opened = openDatabase({ main: new MemorySource(main), journal: new MemorySource(log) }, () => {})
    const rows = [...rebuildRows(opened)].filter(({ place }) => place.kind === 'journal')
    // Beyond what the third change touched, the pages are as they were before the first and before the second.
    const before = (word: string, id: number) => rows.some(({ values }) => values.w === `${word}row ${id} of the table`)
    expect(before('', 2900)).toBe(true)
    expect(before('second first ', 10)).toBe(true)
    expect(rows.every(({ values }) => /^(second )?(first )?row \d+ of the table$/.test(String(values.w)))).toBe(true)
  })

  it.each([
    // A change that was cut off before the last step, when the journal's header is zeroed: all of it is in the file.
    ['when all was written', [], 16],
    // Reading the whole table puts some of what was changed into the file, amid the change.
    [
      'half way',
      [
        "PRAGMA cache_size=8; BEGIN; UPDATE t SET w = 'never ' || substr(w, 7) WHERE id <= 400; SELECT sum(length(w)) FROM t",
      ],
      0,
    ],
  ])('that is hot is rolled back as SQLite does, by its own records and not by older ones: %s', (_, steps, count) => {
    const { main, log } = filesOf('PERSIST', ...thrice(960), ...steps)
    const pagesBefore = filesOf('PERSIST', ...thrice(960).slice(0, 3)).main.length / 4096
    const hot = count > 0 ? heated(log, count, pagesBefore) : log
    expect(readJournal(new MemorySource(hot), 4096)?.overlay).not.toBeNull()
    const ours = words(main, { journal: hot })
    const file = join(scratchFolder(), 'hot.db')
    writeFileSync(file, main)
    writeFileSync(`${file}-journal`, hot)
    const theirs = tool('sqlite3', file, 'SELECT w FROM t ORDER BY id').trim().split('\n')
    expect(ours).toEqual(theirs)
    // There was something to roll back.
    expect(words(main, {})).not.toEqual(theirs)
  })

  it('is none where neither a header nor zeros stand', () => {
    expect(readJournal(new MemorySource(Buffer.alloc(9000, 7)), 4096)).toBeUndefined()
  })
})

describe('the catalogue of pages', () => {
  it.each([
    ['', []],
    ['PRAGMA auto_vacuum=FULL;', [USE.pointerMap]],
  ])('gives every page its use: %s', async (pragma, more) => {
    const file = join(scratchFolder(), 'made.db')
    const database = new sqlite.Database(file)
    database.exec(
      `PRAGMA page_size=512; ${pragma} ${FILL} CREATE INDEX i ON t (w); CREATE TABLE big (b); INSERT INTO big VALUES (zeroblob(5000));`,
    )
    if (!pragma) database.exec('DELETE FROM t WHERE id > 100')
    database.close()
    const { database: opened } = openDatabase({ main: new MemorySource(readFileSync(file)) }, () => {})
    const { use } = catalogueOf(opened)
    const uses = new Set(use.subarray(1))
    expect(uses.has(USE.unknown)).toBe(false)
    for (const one of [USE.tableLeaf, USE.tableInterior, USE.indexLeaf, USE.overflow, ...more])
      expect(uses.has(one), `use ${one}`).toBe(true)
    expect(uses.has(USE.freeLeaf)).toBe(pragma === '')
  })
})
