import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, it } from 'vitest'
import { makeByShell, scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { Database } from './database.js'
import type { SqlValue } from './values.js'

/** Makes a database with SQLite itself and opens its bytes with our reader. */
function opened(sql: string, change: (bytes: Uint8Array) => Uint8Array = (bytes) => bytes) {
  const file = join(scratchFolder(), 'made.db')
  const writer = new sqlite.Database(file)
  writer.exec(sql)
  writer.close()
  const warned = warnings()
  const database = Database.open(new MemorySource(change(readFileSync(file))), warned.report)
  return { file, database, warned }
}

const plain = (value: SqlValue) => (value instanceof Uint8Array ? Buffer.from(value).toString('hex') : value)

function ours(database: Database, table: string) {
  return [...database.rows(table)].map((row) => Object.values(row.values).map(plain))
}

/** The same rows by the SQLite library. */
function theirs(file: string, table: string) {
  const reader = new sqlite.Database(file, { readOnly: true })
  const rows = reader.all(`SELECT * FROM ${table}`) as Record<string, SqlValue>[]
  reader.close()
  return rows.map((row) =>
    Object.values(row).map((value) =>
      plain(typeof value === 'bigint' && Number.isSafeInteger(Number(value)) ? Number(value) : value),
    ),
  )
}

// Rows without rowid come page by page, which is not quite the order of their keys.
const sorted = (rows: unknown[][]) => rows.map((row) => JSON.stringify(row)).sort()

const FILL = `
  CREATE TABLE kinds (id INTEGER PRIMARY KEY, i INT, r REAL, t TEXT, b BLOB, n NUMERIC);
  INSERT INTO kinds VALUES (1, 0, 1.0, '', x'', 1), (-5, 9007199254740993, 0.1, 'é😀', x'00ff', '12.50'), (9223372036854775807, -129, -2e300, NULL, NULL, 'words');
  CREATE TABLE many (k INTEGER PRIMARY KEY, v TEXT);
  WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 3000) INSERT INTO many SELECT x * 7, printf('%0*d', x % 90, x) FROM c;
  CREATE TABLE long (k INTEGER PRIMARY KEY, v BLOB, w TEXT);
  WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 40) INSERT INTO long SELECT x, zeroblob(x * 997), printf('%.*c', x * 331, 'x') FROM c;
  CREATE TABLE keyed (a TEXT, b INTEGER, c REAL, PRIMARY KEY (b, a)) WITHOUT ROWID;
  WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 900) INSERT INTO keyed SELECT 'key ' || x, x % 7, x FROM c;
  ALTER TABLE many ADD COLUMN added TEXT DEFAULT 'later';`

describe('live rows', () => {
  it.each([
    ['the usual', ''],
    ['pages of 512 bytes', 'PRAGMA page_size=512;'],
    ['pages of 65536 bytes', 'PRAGMA page_size=65536;'],
    ['auto_vacuum', 'PRAGMA auto_vacuum=FULL;'],
  ])('are what the SQLite library reads: %s', async (_, pragma) => {
    const { file, database, warned } = opened(pragma + FILL)
    for (const table of ['kinds', 'many', 'long']) expect(ours(database, table)).toEqual(theirs(file, table))
    expect(sorted(ours(database, 'keyed'))).toEqual(sorted(theirs(file, 'keyed')))
    expect(warned.list).toEqual([])
  })

  // The library is built without UTF-16; SQLite's shell makes the same database in it.
  it.each(['UTF-16le', 'UTF-16be'] as const)('are the same in %s', (encoding) => {
    const { file } = opened(FILL)
    const wide = join(scratchFolder(), 'wide.db')
    makeByShell(wide, encoding, FILL)
    const warned = warnings()
    const database = Database.open(new MemorySource(readFileSync(wide)), warned.report)
    expect(database.pager.header.encoding).toBe(encoding.toLowerCase().replace('-', ''))
    for (const table of ['kinds', 'many', 'long']) expect(ours(database, table)).toEqual(theirs(file, table))
    expect(sorted(ours(database, 'keyed'))).toEqual(sorted(theirs(file, 'keyed')))
    expect(warned.list).toEqual([])
  })

  it("are what SQLite's own shell prints", () => {
    const { file, database } = opened(FILL)
    const shell = tool('sqlite3', '-csv', file, 'SELECT k, v, added FROM many ORDER BY k')
    expect(ours(database, 'many').map((row) => row.join(','))).toEqual(
      shell
        .trim()
        .split(/\r?\n/)
        .map((line) => line.replace(/^(\d+),$/, '$1,').replaceAll('"', '')),
    )
  })

  it('say where they lie', () => {
    const { file, database } = opened("CREATE TABLE t (a TEXT); INSERT INTO t VALUES ('needle in the page')")
    const [row] = database.rows('t')
    const bytes = readFileSync(file)
    const at = bytes.indexOf('needle in the page')
    expect(row?.place).toEqual({ kind: 'live', page: 2, offset: at - 4 })
  })
})

describe('damaged databases', () => {
  it('give what is readable, and a warning', () => {
    const { database, warned } = opened(FILL, (bytes) => {
      const cut = new Uint8Array(bytes)
      // A leaf in the middle of "many" is overwritten.
      cut.fill(0x77, 4096 * 12, 4096 * 13)
      return cut
    })
    const rows = ours(database, 'many')
    expect(rows.length).toBeGreaterThan(2000)
    expect(rows.length).toBeLessThan(3000)
    expect(warned.list.length).toBeGreaterThan(0)
  })

  it('end, where their pages point in circles', () => {
    const { database, warned } = opened(FILL, (bytes) => {
      const looped = Buffer.from(bytes)
      for (let page = 1; page < bytes.length / 4096; page++) {
        const start = page * 4096
        // Every interior page claims itself as its right-most child.
        if (looped[start] === 5) looped.writeUInt32BE(page + 1, start + 8)
      }
      return looped
    })
    ours(database, 'many')
    expect(warned.list.some((warning) => warning.message.includes('twice'))).toBe(true)
  })

  it.each([
    ['no database', Buffer.from('this is no database at all, but long enough to be read '.repeat(3)), 'bad-magic'],
    ['too short', Buffer.from('SQLite format 3\0'), 'truncated'],
    ['an impossible page size', Buffer.concat([Buffer.from('SQLite format 3\0'), Buffer.alloc(200, 3)]), 'bad-value'],
  ])('are refused: %s', (_, bytes, code) => {
    expect(() => Database.open(new MemorySource(bytes), () => {})).toThrow(
      expect.objectContaining({ name: 'FormatError', code }),
    )
  })

  it('leave out a row whose type is a negative number', () => {
    const { database, warned } = opened(
      "CREATE TABLE t (a TEXT); INSERT INTO t VALUES ('needle'), ('thread')",
      (bytes) => {
        const changed = Buffer.from(bytes)
        // The record header of the first row: a nine-byte varint of all ones is -1.
        const at = changed.indexOf('needle')
        changed.fill(0xff, at - 1, at + 6)
        changed[at - 2] = 9
        return changed
      },
    )
    expect(ours(database, 't').flat()).not.toContain('needle')
    expect(warned.list.length).toBeGreaterThan(0)
  })

  it('never crash, whatever byte is wrong', () => {
    const { file } = opened(FILL.replaceAll('3000', '200'))
    const bytes = readFileSync(file)
    let state = 12345
    const next = (below: number) => {
      state = (Math.imul(state, 1103515245) + 12345) >>> 0
      return state % below
    }
    for (let round = 0; round < 300; round++) {
      const mutated = Buffer.from(bytes)
      for (let i = 0; i < 8; i++) mutated[next(mutated.length)] = next(256)
      const source = new MemorySource(mutated.subarray(0, round % 5 === 0 ? next(mutated.length) : mutated.length))
      try {
        const database = Database.open(source, () => {})
        for (const table of database.tables.keys()) for (const _ of database.rows(table));
      } catch (thrown) {
        expect(thrown, `round ${round}`).toMatchObject({ name: 'FormatError' })
      }
    }
  })
})
