import { describe, expect, it } from 'vitest'
import { rebuilt } from '../../../../../tests/setup/rebuilt.js'

const COUNT = 'WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 80)'
const KEYED = 'CREATE TABLE keyed (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID;'
const FILL_KEYED = `${COUNT} INSERT INTO keyed SELECT 'key-' || x, 130 + x, printf('words of %d', x) FROM c;`
const keyed = (x: number) => [`key-${x}`, 130 + x, `words of ${x}`]

const numbers = (count: number) => Array.from({ length: count }, (_, i) => i + 1)

describe('rows without rowid', () => {
  it('of a dropped table come back from a page that became a trunk, those too that were deleted before', () => {
    const deleted = 'DELETE FROM keyed WHERE n % 4 = 0;'
    const rows = rebuilt(
      `PRAGMA page_size=8192; ${KEYED} ${FILL_KEYED} CREATE TABLE other (x); ${deleted} DROP TABLE keyed;`,
    )
    const told = rows.flatMap(({ table, values }) => (table === null ? [[values.c0, values.c1, values.c2]] : []))
    for (const row of told) expect(row).toEqual(keyed(Number(row[1]) - 130))
    // The list of a trunk lies over one or two of them.
    expect(told.length).toBeGreaterThan(76)
  })

  it('come back from a block that ends where a cell begins that was freed before', () => {
    const rows = rebuilt(
      `PRAGMA page_size=8192; ${KEYED} ${FILL_KEYED} ${numbers(8)
        .map((i) => `DELETE FROM keyed WHERE k = 'key-${48 - i}';`)
        .join('')}`,
    )
    const told = rows.map(({ values }) => [values.k, values.n, values.v])
    expect(told.sort()).toEqual(
      numbers(8)
        .map((i) => keyed(48 - i))
        .sort(),
    )
  })

  it('say that they are not sure where a letter may be a number', () => {
    // 49 is the digit "1": "key-7" and 49, or "key-71" and 0 or 1.
    const rows = rebuilt(
      `PRAGMA page_size=8192; ${KEYED} ${COUNT} INSERT INTO keyed SELECT 'key-' || x, x % 127, printf('words of %d', x) FROM c; DELETE FROM keyed WHERE n IN (49, 50, 12);`,
    )
    const byNumber = new Map(rows.map((row) => [row.values.n, row]))
    // No key has a form feed in it.
    expect(byNumber.get(12)).toMatchObject({ values: { k: 'key-12' }, confidence: expect.closeTo(0.77, 1) })
    expect(byNumber.get(12)?.reasons).toEqual([
      'its record header was overwritten',
      'the types of two values were lost',
      expect.stringMatching(/^its first bytes are read so with a chance of 9\d %$/),
    ])
    for (const n of [49, 50]) expect(byNumber.get(n)?.confidence ?? 0).toBeLessThan(byNumber.get(12)?.confidence ?? 0)
  })
})

describe('rows in UTF-16 whose block lost its tail', () => {
  it.each(['UTF-16le', 'UTF-16be'] as const)('are not read with letters that no row has: %s', (encoding) => {
    const found = rebuilt(
      `${KEYED} ${COUNT} INSERT INTO keyed SELECT 'thunder-' || (900 + x), 2 + x * 37 % 120, printf('string lantern mill %d', x) FROM c;
       DELETE FROM keyed WHERE k = 'thunder-954';`,
      {
        pragmas: 'PRAGMA page_size=32768;',
        encoding,
        // The table's page is the second. Its one block, "954" at its beginning, gives two bytes to whatever came since.
        change: (bytes) => {
          const block = 32768 + bytes.readUInt16BE(32768 + 1)
          expect(bytes.readUInt16BE(block)).toBe(0)
          const size = bytes.readUInt16BE(block + 2)
          bytes.writeUInt16BE(size - 2, block + 2)
          bytes.writeUInt8(bytes.readUInt8(32768 + 7) + 2, 32768 + 7)
        },
      },
    )
    for (const { values } of found) {
      if (values.k !== undefined) expect(values.k).toBe('thunder-954')
      if (values.v !== undefined) expect(String(values.v)).toMatch(/^string/)
    }
  })
})

describe('small numbers in a table that has no rows to learn from', () => {
  it('are told where one reading is left, and none is wrong', () => {
    const rows = rebuilt(
      `CREATE TABLE pair (a INTEGER, b INTEGER, at INTEGER); ${COUNT} INSERT INTO pair SELECT 2 + x % 40, x + 40, 700000000000000000 + x * 1000000007 FROM c WHERE x < 20;
       ${numbers(17)
         .map((i) => `DELETE FROM pair WHERE b = ${41 + i};`)
         .join('')}`,
    )
    const told = rows.filter(({ missing }) => missing.length === 0)
    for (const { values } of told)
      expect(BigInt(values.at as bigint)).toBe(700000000000000000n + (BigInt(values.b as number) - 40n) * 1000000007n)
    expect(told.length).toBeGreaterThan(2)
  })
})

describe('a long text', () => {
  const LONG = `${COUNT} INSERT INTO note SELECT x, printf('note %d %s', x, replace(hex(zeroblob(600 + x)), '00', 'words ')) FROM c;`
  const TABLE = 'PRAGMA page_size=1024; CREATE TABLE note (id INTEGER PRIMARY KEY, body TEXT);'

  it('whose last page was overwritten with zeros is lost, and no text with zeros in it', () => {
    const rows = rebuilt(`PRAGMA secure_delete=ON; ${TABLE} ${LONG} DELETE FROM note WHERE id > 20;`, { wal: true })
    for (const { values, missing } of rows) {
      if (values.body === undefined) expect(missing).toContain('body')
      else expect(values.body).toMatch(/^note \d+ (words )+$/)
    }
  })

  it('is whole where its pages are still free', () => {
    const rows = rebuilt(`${TABLE} ${LONG} DELETE FROM note WHERE id > 20 AND id < 60;`)
    const whole = rows.filter(({ values }) => values.body !== undefined)
    for (const { values, rowid } of whole) {
      const body = String(values.body)
      const id = Number(body.slice(5, body.indexOf(' ', 5)))
      expect(body).toBe(`note ${id} ${'words '.repeat(600 + id)}`)
      if (rowid !== null) expect(rowid).toBe(id)
    }
    expect(whole.length).toBeGreaterThan(25)
  })
})

describe('rowids of nine bytes', () => {
  // All bits of the ninth byte are the value's: there is no sign that the number ends.
  it.each(['-x', '(1 << 60) + x * 3'])('come back like all others: %s', (rowid) => {
    const table = 'CREATE TABLE note (id INTEGER PRIMARY KEY, words TEXT, n INTEGER);'
    const fill = `${COUNT} INSERT INTO note SELECT ${rowid}, printf('words of %d', x), 300 + x FROM c;`
    const some = rebuilt(`${table} ${fill} DELETE FROM note WHERE n % 2 = 0;`)
    expect(some.map(({ values }) => values.words).sort()).toEqual(
      numbers(40)
        .map((i) => `words of ${2 * i}`)
        .sort(),
    )
    const all = rebuilt(`${table} ${fill} DROP TABLE note;`)
    expect(all.filter(({ rowid: one, standing }) => one !== null && standing === 'deleted').length).toBeGreaterThan(79)
  })
})

describe('rows of a table that lost a column since', () => {
  it('come back from a log with what stood in it, and are older versions where the row is there still', () => {
    const fill = `${COUNT} INSERT INTO page SELECT x, 'https://stage.example/' || x, 1000 + x * 3, 'Page ' || x FROM c;`
    const found = rebuilt(
      `CREATE TABLE page (id INTEGER PRIMARY KEY, url TEXT, extra INTEGER, title TEXT); ${fill}
       DELETE FROM page WHERE id % 4 = 0; ALTER TABLE page DROP COLUMN extra;`,
      { wal: true },
    )
    const before = found.filter(({ values }) => values.extra !== undefined)
    expect(before.length).toBeGreaterThan(40)
    for (const { table, values, standing, rowid, changed } of before) {
      const x = Number(String(values.title).replace('Page ', ''))
      expect(values).toMatchObject({ url: `https://stage.example/${x}`, extra: 1000 + x * 3 })
      expect(table).toBe('page')
      if (rowid !== null) expect(standing).toBe(x % 4 === 0 ? 'deleted' : 'superseded')
      if (standing === 'superseded') expect(changed).toEqual(['extra'])
      if (x % 4 !== 0) expect(standing).not.toBe('deleted')
    }
  })
})
