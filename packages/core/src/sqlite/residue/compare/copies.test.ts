import { describe, expect, it } from 'vitest'
import { databaseOf } from '../../../../../../tests/setup/fixtures.js'
import { MemorySource } from '../../../io/source.js'
import { catalogueOf } from '../../catalogue.js'
import { openDatabase } from '../../open.js'
import { NO_TABLE } from '../evidence/unknown.js'
import { judge } from './judging.js'
import { LiveRows } from './live.js'

const open = (sql: string) => openDatabase({ main: new MemorySource(databaseOf(sql)) }, () => {}).database

describe('rows of which no table is known', () => {
  const database = open(
    `CREATE TABLE place (id INTEGER PRIMARY KEY, lat REAL, name TEXT); INSERT INTO place VALUES (5, 2.5, 'mill'), (6, 3, 'barn');
     CREATE TABLE keyed (k TEXT PRIMARY KEY, n INTEGER, v TEXT) WITHOUT ROWID; INSERT INTO keyed VALUES ('fox', 7, 'é漢😀');
     CREATE TABLE pair (a, b); INSERT INTO pair VALUES ('mill', 9);`,
  )
  const verdicts = (...rows: (readonly (string | number | null | undefined)[])[]) => {
    const at = (id: number) => ({ values: rows[id] ?? [], whole: !rows[id]?.includes(undefined) })
    const judgementOf = judge(database, NO_TABLE, { count: rows.length, at })
    return rows.map((_, id) => judgementOf(id).verdict === 'equal')
  }

  it('are copies where a live row of any table holds the same values, and where all of them are there', () => {
    expect(verdicts(['fox', 7, 'é漢😀'], ['fox', 8, 'é漢😀'], [null, 2.5, 'mill'], ['mill', 9])).toEqual([
      true,
      false,
      true,
      true,
    ])
    expect(verdicts(['fox', undefined, 'é漢😀'], ['fox', 7, 'é漢😀', null], [])).toEqual([false, false, false])
  })

  it('with a rowid are copies of the row of that rowid alone', () => {
    const live = new LiveRows(database, catalogueOf(database))
    expect(live.holds(5, [null, 2.5, 'mill'])).toBe(true)
    expect(live.holds(6, [null, 2.5, 'mill'])).toBe(false)
    expect(live.holds(7, [null, 2.5, 'mill'])).toBe(false)
    expect(live.holds(5, [null, 2.5, undefined])).toBe(true)
    expect(live.holds(1, ['fox', 7, 'é漢😀'])).toBe(false)
    expect(live.holds(1, ['mill', 9])).toBe(true)
  })
})
