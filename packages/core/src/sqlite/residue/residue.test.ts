import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { makeCase } from '../../../../../tests/residue/generate.js'
import { scoreCase } from '../../../../../tests/residue/score.js'
import { scratchFolder } from '../../../../../tests/setup/fixtures.js'
import { rebuilt } from '../../../../../tests/setup/rebuilt.js'
import { MemorySource } from '../../io/source.js'
import { openDatabase } from '../open.js'
import { rebuildRows } from './rebuild.js'
import { mayBeCell, mayBeRecord } from './scan/quick.js'
import { varintSize } from './scan/whole-cell.js'

const TABLE = 'CREATE TABLE note (id INTEGER PRIMARY KEY, title TEXT NOT NULL, body TEXT, at REAL);'
const FILL =
  "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 60) INSERT INTO note SELECT x, 'title ' || x, printf('body of note %d, some words', x), x * 1000.5 FROM c;"

const note = (x: number) => ({ title: `title ${x}`, body: `body of note ${x}, some words`, at: x * 1000.5 })

describe('rebuilt rows', () => {
  it('come from freed cells, whatever part of their head was overwritten', () => {
    const rows = rebuilt(`${TABLE}${FILL} DELETE FROM note WHERE id IN (5, 20, 21, 22, 40);`)
    expect(rows.map((row) => row.values.title).sort()).toEqual([
      'title 20',
      'title 21',
      'title 22',
      'title 40',
      'title 5',
    ])
    for (const row of rows) {
      const x = Number(String(row.values.title).slice(6))
      expect(row).toMatchObject({ table: 'note', standing: 'deleted', values: note(x) })
      expect(row.rowid === null || row.rowid === x).toBe(true)
      expect(row.missing).toEqual(row.rowid === null ? ['id'] : [])
      expect(row.reasons).toEqual([
        row.rowid === null ? 'its record header was overwritten' : 'its record header is whole',
      ])
    }
  })

  it('come from pages that were given up, with their rowids', () => {
    const rows = rebuilt(`PRAGMA page_size=512; ${TABLE}${FILL} DELETE FROM note WHERE id BETWEEN 10 AND 50;`)
    const whole = rows.filter((row) => row.place.kind === 'freelist' && row.rowid !== null)
    expect(whole.length).toBeGreaterThan(20)
    for (const row of rows) expect(row.values).toMatchObject(note(Number(String(row.values.title).slice(6))))
    // Where SQLite itself writes on a page that it gives up, a few rows go.
    expect(new Set(rows.map((row) => row.values.title)).size).toBeGreaterThan(30)
  })

  it('tell older versions of live rows from deleted ones', () => {
    const rows = rebuilt(
      `${TABLE}${FILL} UPDATE note SET body = 'changed to something quite a bit longer than before' WHERE id = 300; UPDATE note SET body = 'longer than it was, by far and away' WHERE id = 33; DELETE FROM note WHERE id = 34;`,
    )
    const standings = Object.fromEntries(rows.map((row) => [row.values.title, row.standing]))
    expect(standings['title 34']).toBe('deleted')
    expect(standings['title 33']).toBe('superseded')
  })

  it('come from a write-ahead log, each version once', () => {
    const rows = rebuilt(
      `${TABLE}${FILL} UPDATE note SET body = 'second' WHERE id = 7; UPDATE note SET body = 'third' WHERE id = 7; DELETE FROM note WHERE id = 8;`,
      { wal: true },
    )
    const seven = rows.filter((row) => row.values.title === 'title 7').map((row) => row.values.body)
    expect(seven.sort()).toEqual(['body of note 7, some words', 'second'])
    expect(rows.filter((row) => row.values.title === 'title 8')).toMatchObject([{ standing: 'deleted', rowid: 8 }])
  })

  it('of a dropped table have no name, and its definition is told', () => {
    const rows = rebuilt(`${TABLE}${FILL} CREATE TABLE other (x); DROP TABLE note;`)
    expect(rows.find((row) => row.table === 'sqlite_master')?.values.name).toBe('note')
    const notes = rows.filter((row) => row.table === null)
    expect(notes.length).toBe(60)
    for (const row of notes)
      expect(row).toMatchObject({ place: { kind: 'dropped' }, values: { c1: `title ${row.rowid}` } })
  })

  it('of a table that was emptied and then dropped are named by the pointers that stayed', () => {
    const rows = rebuilt(`${TABLE}${FILL} CREATE TABLE other (x); DELETE FROM note; DROP TABLE note;`)
    const notes = rows.filter((row) => row.table === null)
    expect(notes.map((row) => row.values.c1).sort()).toEqual(
      Array.from({ length: 60 }, (_, i) => `title ${i + 1}`).sort(),
    )
    for (const row of notes) expect(row).toMatchObject({ standing: 'deleted', rowid: expect.any(Number) })
  })

  it('of a dropped table come once, though one of their places lost the rowid', () => {
    const rows = rebuilt(
      `${TABLE}${FILL} CREATE TABLE other (x); DELETE FROM note WHERE id IN (5, 30); DROP TABLE note;`,
      { wal: true },
    )
    const titles = rows.flatMap(({ table, values }) => (table === null ? [values.c1] : []))
    expect(titles).toContain('title 5')
    expect(titles).toHaveLength(new Set(titles).size)
  })

  it('of a dropped table that lost their heads are read as their neighbours on the page say', () => {
    const rows = rebuilt(
      'CREATE TABLE pair (a INTEGER, b INTEGER, at INTEGER); CREATE TABLE other (x); WITH RECURSIVE c(x) AS (SELECT 2 UNION ALL SELECT x + 1 FROM c WHERE x < 100) INSERT INTO pair SELECT x % 30 + 2, x * 3, 700000000000000000 + x FROM c; DELETE FROM pair WHERE b % 30 = 0; DELETE FROM pair; DROP TABLE pair;',
    )
    const pairs = rows.filter((row) => row.table === null)
    const freed = pairs.filter(({ values }) => Number(values.c1) % 30 === 0)
    expect(freed.length).toBeGreaterThan(5)
    for (const { values, missing } of pairs) {
      const x = Number(values.c1) / 3
      expect(values.c2).toBe(700000000000000000n + BigInt(x))
      if (!missing.includes('c0')) expect(values.c0).toBe((x % 30) + 2)
    }
  })

  it('without rowid are told although both types of the key are overwritten, where only one reading is likely', () => {
    const rows = rebuilt(
      "CREATE TABLE k (a TEXT, b INTEGER, c TEXT, PRIMARY KEY (a, b)) WITHOUT ROWID; WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 60) INSERT INTO k SELECT 'key-' || (x + 100), x + 300, 'value of ' || x FROM c; DELETE FROM k WHERE b IN (320, 321, 322, 340);",
    )
    expect(rows.map(({ values }) => values)).toEqual(
      expect.arrayContaining([320, 321, 322, 340].map((b) => ({ a: `key-${b - 200}`, b, c: `value of ${b - 300}` }))),
    )
    expect(rows).toHaveLength(4)
  })

  it('are not made of words that look like the head of a freed cell', () => {
    const text = 'hinge lantern thunder moon wagon ticket stage puppet mill poster '.repeat(30)
    const rows = rebuilt(
      `PRAGMA page_size=65536; CREATE TABLE long (id INTEGER PRIMARY KEY, body TEXT, data BLOB); WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 60) INSERT INTO long SELECT x, substr('${text}', x, 700 + x * 10), randomblob(300) FROM c; DELETE FROM long WHERE id % 3 = 0;`,
    )
    // SQLite moves cells together on the way, which leaves a few of the deleted ones.
    expect(rows.length).toBeGreaterThan(3)
    for (const { values } of rows) expect(text).toContain(values.body)
    for (const { values } of rows) expect(String(values.body).length).toBeGreaterThan(600)
  })

  it('are not made of the counters of SQLite itself', () => {
    const rows = rebuilt(
      "CREATE TABLE pair (a INTEGER, b INTEGER, at INTEGER); CREATE TABLE message (id INTEGER PRIMARY KEY AUTOINCREMENT, text TEXT); CREATE TABLE sheet (id INTEGER PRIMARY KEY AUTOINCREMENT, text TEXT); WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 40) INSERT INTO pair SELECT x, x, 7000000 + x FROM c; INSERT INTO message (text) VALUES ('one'); INSERT INTO sheet (text) VALUES ('two'); DELETE FROM sqlite_sequence WHERE name = 'message';",
    )
    expect(rows).toEqual([])
  })

  it('are none where nothing was deleted, or where SQLite deletes securely', () => {
    expect(rebuilt(`${TABLE}${FILL}`)).toEqual([])
    expect(rebuilt(`PRAGMA secure_delete=ON; ${TABLE}${FILL} DELETE FROM note WHERE id % 2 = 0;`)).toEqual([])
  })

  it('say where they lie', () => {
    let at = 0
    const [row] = rebuilt(`${TABLE}${FILL} DELETE FROM note WHERE id = 30;`, {
      change: (bytes) => {
        at = bytes.indexOf('title 30')
      },
    })
    expect(row?.place.kind).toBe('freeblock')
    expect(at - (row?.place.offset ?? 0)).toBeGreaterThan(0)
    expect(at - (row?.place.offset ?? 0)).toBeLessThan(12)
  })

  it('keep integers beyond 2^53 exactly', () => {
    const rows = rebuilt(
      "CREATE TABLE t (id INTEGER PRIMARY KEY, n INTEGER, w TEXT); INSERT INTO t VALUES (1, 9007199254740993, 'some words'), (2, 5, 'more words'); DELETE FROM t WHERE id = 1;",
    )
    expect(rows[0]?.values.n).toBe(9007199254740993n)
  })

  it('of rows without rowid are told by their key', () => {
    const rows = rebuilt(
      "PRAGMA page_size=512; CREATE TABLE k (a TEXT, b INTEGER, c TEXT, PRIMARY KEY (a, b)) WITHOUT ROWID; WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 200) INSERT INTO k SELECT 'key ' || x, x, 'value of ' || x FROM c; DELETE FROM k WHERE b > 50;",
    )
    expect(rows.length).toBeGreaterThan(80)
    for (const row of rows) if (row.missing.length === 0) expect(row.values.c).toBe(`value of ${row.values.b}`)
  })
})

describe('the quick test for cells', () => {
  it('lets through what is a cell', () => {
    const cell = Buffer.from(
      '1d05040017 35 4141414141 4242424242424242424242424242424242424242'.replaceAll(' ', ''),
      'hex',
    )
    expect(mayBeCell(cell, 0, cell.length, false, 40)).toBe(true)
    expect(mayBeRecord(cell, 2, cell.length, 0x1d, 40)).toBe(true)
    expect(mayBeCell(cell, 1, cell.length, false, 40)).toBe(false)
    expect(mayBeCell(cell, 0, 4, false, 40)).toBe(false)
  })

  it.each([
    [0, 1],
    [127, 1],
    [128, 2],
    [16383, 2],
    [16384, 3],
    [2 ** 32, 5],
    [2 ** 53, 8],
  ])('a varint of %i takes %i bytes', (value, size) => {
    expect(varintSize(value)).toBe(size)
  })
})

describe('against what real SQLite wrote', () => {
  // The bench does this for hundreds of seeds; a few of each kind stand here as guards.
  it.each([5, 14, 21, 23, 29, 33])('seed %i: hardly any whole survivor is missed, and no value is wrong', (seed) => {
    const score = scoreCase(makeCase(seed, scratchFolder()))
    expect(score.back / score.whole).toBeGreaterThan(0.98)
    expect(score).toMatchObject({ wrong: 0, liveReported: 0 })
    expect(score.invented / Math.max(1, score.reported)).toBeLessThan(0.01)
  })
})

describe('damaged files', () => {
  it('end in rows or in a clear error, whatever byte is wrong', () => {
    const folder = scratchFolder()
    const made = makeCase(23, folder)
    const bytes = readFileSync(made.files.main)
    let state = 99
    const next = (below: number) => {
      state = (Math.imul(state, 1103515245) + 12345) >>> 0
      return state % below
    }
    for (let round = 0; round < 40; round++) {
      const mutated = Buffer.from(bytes)
      for (let i = 0; i < 30; i++) mutated[next(mutated.length)] = next(256)
      const source = new MemorySource(mutated.subarray(0, round % 4 === 0 ? next(mutated.length) : mutated.length))
      try {
        for (const _ of rebuildRows(openDatabase({ main: source }, () => {})));
      } catch (thrown) {
        expect(thrown, `round ${round}`).toMatchObject({ name: 'FormatError' })
      }
    }
  })
})
