import { describe, expect, it } from 'vitest'
import { rebuilt } from '../../../../../tests/setup/rebuilt.js'

const COUNT = 'WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 300)'
const KEYED = 'CREATE TABLE keyed (k TEXT, n INTEGER, PRIMARY KEY (k, n)) WITHOUT ROWID;'
const PAGE = `CREATE TABLE page (id INTEGER PRIMARY KEY, url TEXT, title TEXT); CREATE INDEX page_url ON page (url);
  ${COUNT} INSERT INTO page SELECT x, 'https://stage.example/' || x, 'Page ' || x FROM c;`
const LISTED = `CREATE TABLE page (url TEXT PRIMARY KEY, n INTEGER, title TEXT) WITHOUT ROWID; CREATE INDEX titles ON page (title);
  ${COUNT} INSERT INTO page SELECT 'https://stage.example/' || (x * 7919 % 601), x, 'Page ' || x FROM c;`

describe('entries of an index', () => {
  // An entry of (url) and a row of keyed are stored alike: a text, a whole number.
  it('are no rows of a table without rowids: of an index that was dropped', () => {
    expect(rebuilt(`${KEYED} ${PAGE} DROP INDEX page_url;`)).toEqual([])
  })

  it('are none in a log, where the index is there still', () => {
    const rows = rebuilt(`${KEYED} ${PAGE} DELETE FROM page WHERE id > 20;`, { wal: true })
    expect(new Set(rows.map(({ table }) => table))).toEqual(new Set(['page']))
    expect(rows.length).toBe(280)
  })

  it('are none where the rows that they stand for were deleted as well', () => {
    const rows = rebuilt(`${KEYED} ${PAGE} DELETE FROM page WHERE id > 20; DROP INDEX page_url;`)
    expect(rows.filter(({ table, confidence }) => table === 'keyed' && confidence > 0.9)).toEqual([])
  })

  it('are none of a table that was dropped with its index', () => {
    const rows = rebuilt(`${LISTED} DROP TABLE page;`).filter(({ table }) => table === null)
    expect(rows.length).toBe(300)
    for (const { values } of rows) expect(values.c2).toBe(`Page ${values.c1}`)
  })
})

describe('rows without rowids', () => {
  it('come back from pages that were given up, though a number stands last in them', () => {
    const fill = `${COUNT} INSERT INTO keyed SELECT 'https://stage.example/' || (x + 5000), x FROM c;`
    const rows = rebuilt(`${KEYED} ${PAGE} ${fill} DROP TABLE keyed;`)
    expect(rows.filter(({ values }) => String(values.c0).startsWith('https://stage.example/5')).length).toBe(300)
  })
})
