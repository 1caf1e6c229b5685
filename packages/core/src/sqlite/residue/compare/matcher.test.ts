import { describe, expect, it } from 'vitest'
import { databaseOf } from '../../../../../../tests/setup/fixtures.js'
import { MemorySource } from '../../../io/source.js'
import type { Table } from '../../database.js'
import { openDatabase } from '../../open.js'
import type { SqlValue } from '../../values.js'
import { judge } from './judging.js'

const { database } = openDatabase(
  {
    main: new MemorySource(
      databaseOf(`CREATE TABLE film (title TEXT, place TEXT, seconds INTEGER, words TEXT, note TEXT);
        WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 400)
        INSERT INTO film SELECT 'film ' || x, 'barn', 1000 + x, 'words of ' || x, 'note ' || x FROM c;
        ALTER TABLE film ADD COLUMN kind TEXT DEFAULT 'plain';`),
    ),
  },
  () => {},
)
const film = database.tables.get('film') as Table

const judged = (...rows: (SqlValue | undefined)[][]) => {
  const at = (id: number) => ({ values: rows[id] ?? [], whole: !rows[id]?.includes(undefined) })
  const judgementOf = judge(database, film, { count: rows.length, at })
  return rows.map((_, id) => judgementOf(id))
}
const row = (x: number, change: Record<number, SqlValue | undefined> = {}) =>
  [`film ${x}`, 'barn', 1000 + x, `words of ${x}`, `note ${x}`, 'plain'].map((value, i) =>
    i in change ? change[i] : value,
  )

describe('rebuilt rows without their rowids', () => {
  it('are copies, older versions or other rows than the live ones', () => {
    expect(
      judged(row(7), row(8, { 4: undefined }), row(9, { 4: 'another note' }), row(9000), [
        undefined,
        'barn',
        undefined,
        undefined,
        undefined,
        undefined,
      ]),
    ).toEqual([
      { verdict: 'equal', changed: undefined },
      { verdict: 'equal', changed: undefined },
      { verdict: 'superseded', changed: [4] },
      { verdict: 'deleted', changed: undefined },
      { verdict: 'unsure', changed: undefined },
    ])
  })

  it('are judged by what few of them share, however many there are', () => {
    // What a hundred of them share, and no live row has, tells none of them from the others.
    const shared = { 1: 'a mill by the harbour', 3: 'words that all have' }
    const older = Array.from({ length: 100 }, (_, i) => row(i + 1, { ...shared, 4: `older ${i}` }))
    expect(new Set(judged(...older).map(({ verdict }) => verdict))).toEqual(new Set(['superseded']))
  })
})
