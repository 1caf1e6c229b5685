import { copyFileSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../../tests/setup/fixtures.js'
import { MemorySource } from '../../io/source.js'
import { openDatabase } from '../open.js'
import { DatabaseLook } from './look.js'

const FILL = `PRAGMA page_size=1024; PRAGMA secure_delete=OFF; CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT, n INT);
  WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 80) INSERT INTO t SELECT x, 'word number ' || x, x * 1000 FROM c;`

function lookAt(sql: string, journal = 'DELETE') {
  const file = join(scratchFolder(), 'looked.db')
  const writer = new sqlite.Database(file)
  writer.exec(FILL)
  // Without shared memory there is a write-ahead log only for a lone writer.
  writer.exec(`PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=${journal}`)
  writer.exec(sql)
  for (const ending of journal === 'WAL' ? ['', '-wal'] : [''])
    copyFileSync(`${file}${ending}`, `${file}.copy${ending}`)
  writer.close()
  const main = new MemorySource(readFileSync(`${file}.copy`))
  const wal = journal === 'WAL' ? new MemorySource(readFileSync(`${file}.copy-wal`)) : undefined
  return new DatabaseLook(openDatabase({ main, wal }, () => {}))
}

const pagesOf = (look: DatabaseLook) => Array.from({ length: look.pageCount }, (_, i) => look.page(i + 1))

describe('a look at a page', () => {
  it('gives every byte to one part', () => {
    for (const view of pagesOf(lookAt('DELETE FROM t WHERE id % 3 = 0'))) {
      let at = 0
      for (const span of view?.spans ?? []) {
        expect(span.start).toBe(at)
        expect(span.end).toBeGreaterThan(span.start)
        at = span.end
      }
      expect(at).toBe(1024)
    }
  })

  it('shows rows, live and rebuilt, with the bytes of each column', () => {
    const rows = pagesOf(lookAt('DELETE FROM t WHERE id % 3 = 0')).flatMap((view) =>
      (view?.rows ?? []).map((row) => ({ ...row, bytes: Buffer.from(view?.bytes ?? []) })),
    )
    const words = rows.flatMap(({ kind, table, columns, bytes }) => {
      const word = columns.find((column) => column.name === 'w')
      return table === 't' && word ? [[kind, bytes.subarray(word.start, word.end).toString(), word.value]] : []
    })
    expect(words).toContainEqual(['live', 'word number 7', 'word number 7'])
    expect(words).toContainEqual(['rebuilt', 'word number 9', 'word number 9'])
    for (const [, stored, value] of words) expect(stored).toBe(value)
    expect(rows.find((row) => row.columns.some(({ value }) => value === 'word number 9'))).toMatchObject({
      confidence: expect.closeTo(0.73, 1),
      reasons: ['its record header is whole'],
    })
    expect(rows.find((row) => row.kind === 'live' && row.rowid === 7)).toMatchObject({ confidence: 1, reasons: [] })
    expect(rows.find((row) => row.rowid === 7)?.columns[0]).toMatchObject({ name: 'id', value: 7 })
  })

  it('shows the image of a log in which a byte lies, and says where there is none', () => {
    const look = lookAt("UPDATE t SET w = 'changed' WHERE id = 5; UPDATE t SET w = 'again' WHERE id = 5", 'WAL')
    const frame = look.opened.siblings.wal?.log.frames[0]
    const view = look.page(frame?.page ?? 0, { file: 'wal', offset: (frame?.offset ?? 0) + 100 })
    expect(view).toMatchObject({ file: 'wal', offset: frame?.offset })
    expect(view?.rows.flatMap((row) => row.columns.map((column) => column.value))).toContain('changed')
    expect(look.page(1, { file: 'journal', offset: 600 })).toBeUndefined()
    expect(look.page(999)).toBeUndefined()
  })
})
