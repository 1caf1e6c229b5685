import { Random } from '@lumbrin/standins/random'
import { describe, expect, it } from 'vitest'
import { rebuilt } from '../../../../../tests/setup/rebuilt.js'

const COUNT = 'WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 240)'
const SHAPE = '(id INTEGER PRIMARY KEY, who INTEGER, what INTEGER, via TEXT)'
// Scattered, so that no column counts up with the rows.
const rowsOf = (table: string, who: number) =>
  `${COUNT} INSERT INTO ${table} SELECT x * 7919 % 100003, ${who} + x * 31 % 50, 1000 + x * 577 % 9000, 'words of ' || x FROM c;`
const LIKED = `CREATE TABLE liked ${SHAPE}; ${rowsOf('liked', 1)}`
const SHARED = `CREATE TABLE shared ${SHAPE}; ${rowsOf('shared', 400)}`

describe('tables of like shape', () => {
  it('a dropped one, whose statement is gone, does not lend its rows to the one that is left', () => {
    // The fast kind of secure_delete wipes the statement, and leaves the pages that are given up.
    const rows = rebuilt(`${LIKED} ${SHARED} PRAGMA secure_delete=FAST; DROP TABLE shared;`)
    expect(rows.length).toBeGreaterThan(200)
    for (const { table, values, rowid } of rows) {
      expect(table).toBeNull()
      const x = Number(String(values.c3).slice('words of '.length))
      expect([rowid, values.c1, values.c2]).toEqual([
        (x * 7919) % 100003,
        400 + ((x * 31) % 50),
        1000 + ((x * 577) % 9000),
      ])
    }
  })

  it('rows far from all live ones are of their table where its columns count up', () => {
    const rows = rebuilt(
      `CREATE TABLE told (id INTEGER PRIMARY KEY, at INTEGER, n INTEGER, w TEXT); ${COUNT} INSERT INTO told SELECT x, 700000000 + (x > 120) * 9000000 + x, x * 31 % 50, printf('%0200d', x) FROM c; DELETE FROM told WHERE id <= 120;`,
    )
    expect(rows.length).toBeGreaterThan(90)
    for (const { table, values } of rows)
      expect([table, values.w]).toEqual(['told', String(Number(values.at) - 700_000_000).padStart(200, '0')])
  })
})

describe('bytes that are no rows', () => {
  it('entries freed in an index are not taken for rows of a table of as many columns', () => {
    const rows = rebuilt(
      `PRAGMA page_size=4096; CREATE TABLE odd (name TEXT, n INTEGER); CREATE INDEX by_name ON odd (name); ${COUNT} INSERT INTO odd SELECT 'odd.' || (x * 37 % 241), x * 300 FROM c; UPDATE odd SET name = 'new.' || n WHERE n % 1500 = 0; DROP INDEX by_name; ${COUNT} INSERT INTO odd SELECT 'more.' || (x * 37 % 241), x * 300 FROM c;`,
    )
    for (const { values } of rows) expect(String(values.name)).toMatch(/^odd\.\d+$/)
    for (const { values } of rows) expect(Number(values.n) % 1500).toBe(0)
  })

  it('pointer maps in a log are not taken for rows of NULLs', () => {
    const columns = Array.from({ length: 70 }, (_, i) => `f${i} ${i % 9 === 0 ? 'TEXT' : 'INTEGER'}`).join(', ')
    const values = Array.from({ length: 70 }, (_, i) =>
      i % 9 === 0
        ? `CASE x % 2 WHEN 0 THEN printf('%0*d', x % 40, x) END`
        : `CASE (x + ${i}) % ${i % 4 === 0 ? 1 : 5} WHEN 0 THEN x * ${i * 13} END`,
    ).join(', ')
    const more = (from: number) => `${COUNT} INSERT INTO wide SELECT x + ${from}, ${values} FROM c;`
    const rows = rebuilt(
      `CREATE TABLE wide (id INTEGER PRIMARY KEY, ${columns}); ${[0, 240, 480].map(more).join('')}`,
      { wal: true, pragmas: 'PRAGMA auto_vacuum=FULL;' },
    )
    expect(rows).toEqual([])
  })
})

describe('a page that grew', () => {
  it('has rows below the cells of the tree, and none with their bytes in its values', () => {
    const sql = `PRAGMA page_size=512; CREATE TABLE counted (id INTEGER PRIMARY KEY, n INTEGER, ratio REAL); ${COUNT} INSERT INTO counted SELECT x, x * 4001, x * 1000 + 0.5 FROM c; DELETE FROM counted WHERE id < 200;`
    const rows = rebuilt(sql)
    for (const { values } of rows)
      if (values.n !== undefined && values.ratio !== undefined)
        expect(values.ratio).toBe((Number(values.n) / 4001) * 1000 + 0.5)
    expect(rows.length).toBeGreaterThan(140)
  })
})

describe('an emptied table', () => {
  it('is known by the rows on the pages that it gave up', () => {
    const rows = rebuilt(
      `PRAGMA page_size=1024; CREATE TABLE tile (z INTEGER, x INTEGER, y INTEGER, tag TEXT, PRIMARY KEY (z, x, y)) WITHOUT ROWID; ${COUNT} INSERT INTO tile SELECT 9 + x % 8, x * 7919 % 60000, 1000 + x, 'tag of ' || x FROM c; DELETE FROM tile WHERE y % 9 = 4; DELETE FROM tile;`,
    )
    const told = rows.filter(({ missing }) => missing.length === 0)
    for (const { values } of told) {
      const x = Number(String(values.tag).slice('tag of '.length))
      expect([values.z, values.x, values.y]).toEqual([9 + (x % 8), (x * 7919) % 60000, 1000 + x])
    }
    expect(told.length).toBeGreaterThan(200)
  })
})

describe('UTF-16', () => {
  it.each(['UTF-16le', 'UTF-16be'] as const)(
    'rows of %s come back from a log that was never written back',
    (encoding) => {
      const rows = rebuilt(
        `CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT, n INTEGER); ${COUNT} INSERT INTO t SELECT x, 'é漢😀 of ' || x, x * 1000 FROM c; DELETE FROM t WHERE id % 3 = 0;`,
        { wal: true, encoding },
      )
      expect(rows.map(({ values }) => [values.n, values.w]).sort((a, b) => Number(a[0]) - Number(b[0]))).toEqual(
        Array.from({ length: 80 }, (_, i) => [(i + 1) * 3000, `é漢😀 of ${(i + 1) * 3}`]),
      )
    },
  )
})

describe('a dropped table that nothing defines any more', () => {
  it('gives rows that were deleted before as well, by those that its pages name', () => {
    const rows = rebuilt(
      `CREATE TABLE other (x); CREATE TABLE gone ${SHAPE}; ${rowsOf('gone', 1)} DELETE FROM gone WHERE what % 7 = 3; PRAGMA secure_delete=FAST; DROP TABLE gone;`,
    )
    const told = new Set<number>()
    for (const { table, values, missing } of rows) {
      expect(table).toBeNull()
      if (missing.length > 0) continue
      const x = Number(String(values.c3).slice('words of '.length))
      expect([values.c1, values.c2]).toEqual([1 + ((x * 31) % 50), 1000 + ((x * 577) % 9000)])
      told.add(x)
    }
    expect([...told].filter((x) => (1000 + ((x * 577) % 9000)) % 7 === 3).length).toBeGreaterThan(20)
    expect(told.size).toBeGreaterThan(210)
  })
})

describe('blobs of random bytes', () => {
  it('are not cut where their last bytes and the next head look like a head', () => {
    const random = new Random(7)
    const blobs = Array.from({ length: 240 }, (_, x) =>
      Buffer.from(Array.from({ length: 100 + x }, () => random.int(0, 255))).toString('hex'),
    )
    const values = blobs.map((blob, x) => `(${x}, ${x % 30}, ${x * 1000 + 0.5}, 'words of ${x}', x'${blob}')`)
    const rows = rebuilt(
      `PRAGMA page_size=65536; CREATE TABLE memo (id INTEGER PRIMARY KEY, n INTEGER, at REAL, w TEXT, data BLOB); INSERT INTO memo VALUES ${values.join(',')}; DELETE FROM memo WHERE id % 2 = 0;`,
    )
    for (const { values } of rows) {
      const x = Number(String(values.w).slice('words of '.length))
      expect(Buffer.from(values.data as Uint8Array).toString('hex')).toBe(blobs[x])
    }
    expect(rows).toHaveLength(120)
  })
})
