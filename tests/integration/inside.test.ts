import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Origin } from '@lumbrin/core/categories/types'
import { beforeEach, describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { requireFinding } from '../../apps/workbench/src/services/content.js'
import { pageMap, pageView } from '../../apps/workbench/src/services/inside.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const MESSAGES = { domain: 'HomeDomain', path: 'Library/SMS/sms.db' }

/** Where the backup keeps a file: SQLite's own shell reads its list. */
function storedFile({ domain, path }: { domain: string; path: string }): string {
  const id = tool(
    'sqlite3',
    join(folder, 'Manifest.db'),
    `SELECT fileID FROM Files WHERE domain = '${domain}' AND relativePath = '${path}'`,
  ).trim()
  return join(folder, id.slice(0, 2), id)
}

describe('looking inside a database', () => {
  let bench: Workbench
  beforeEach(async () => {
    bench = await workbenchWith(inject('databaseUrl'), folder)
  })

  it('maps every page, as many and as large as SQLite says', async () => {
    const map = await pageMap(bench.db, { sourceId: bench.sourceId, ...MESSAGES })
    const ask = (pragma: string) => Number(tool('sqlite3', storedFile(MESSAGES), `PRAGMA ${pragma}`))
    expect(map.pageCount).toBe(ask('page_count'))
    expect(map.pageSize).toBe(ask('page_size'))
    expect(map.uses).toHaveLength(map.pageCount)
    expect(Object.values(map.counts).reduce((sum, count) => sum + count)).toBe(map.pageCount)
    const free = (map.counts.freeTrunk ?? 0) + (map.counts.freeLeaf ?? 0)
    expect(free).toBe(ask('freelist_count'))
  })

  it('shows a page’s bytes as they are, live rows with what SQLite reads', async () => {
    const place = { sourceId: bench.sourceId, ...MESSAGES }
    const bytes = readFileSync(storedFile(MESSAGES))
    const { pageSize, pageCount } = await pageMap(bench.db, place)
    const texts = new Map(
      tool('sqlite3', '-json', storedFile(MESSAGES), 'SELECT ROWID AS id, text FROM message')
        .split('\n')
        .filter((line) => line !== '')
        .map((line) => JSON.parse(line.replace(/^\[|[\],]+$/g, '')))
        .map(({ id, text }) => [String(id), text]),
    )
    const seen = new Set<string | null>()
    for (let page = 1; page <= pageCount; page++) {
      const view = await pageView(bench.db, place, page)
      expect(Buffer.from(view.bytes, 'base64').equals(bytes.subarray((page - 1) * pageSize, page * pageSize))).toBe(
        true,
      )
      for (const row of view.rows.filter((row) => row.table === 'message' && row.kind === 'live')) {
        const text = row.columns.find(({ name }) => name === 'text')?.value
        if (!text?.endsWith('…')) expect(text ?? null).toBe(texts.get(row.rowid ?? '') ?? 'NULL')
        seen.add(row.rowid)
      }
    }
    expect(seen.size).toBe(texts.size)
  })

  it('marks the bytes of every rebuilt message where the finding says that they lie', async () => {
    const { db, sourceId } = bench
    const id = await startRead(db, sourceId, { categories: ['messages'], passes: ['live', 'residue'] })
    await claimWork(db, 'reads', 'test:1')
    await runRead(db, id, new AbortController().signal)
    const rebuilt = await db('findings').where({ category: 'messages', standing: 'rebuilt' }).limit(30).pluck('id')
    expect(rebuilt.length).toBe(30)
    let read = 0
    for (const one of rebuilt) {
      const finding = await requireFinding(db, asId(one))
      const { text } = finding
      const { origin } = finding.sightings[0] as { origin: Origin }
      const view = await pageView(db, { sourceId, ...origin }, origin.page ?? 0, {
        file: origin.place === 'wal' || origin.place === 'journal' ? origin.place : 'database',
        offset: origin.offset ?? 0,
      })
      const row = view.rows.find(({ start }) => view.offset + start === origin.offset)
      const bytes = Buffer.from(view.bytes, 'base64')
      const column = row?.columns.find(({ name }) => name === 'text')
      expect(row, `${one} at ${origin.offset}`).toMatchObject({ kind: 'rebuilt', table: 'message' })
      if (text === null || column?.value !== text) continue
      expect(bytes.subarray(column.start, column.end).toString('utf8')).toBe(text)
      read++
    }
    // Texts that are cut short for the screen, or lie on an overflow page, are not compared.
    expect(read).toBeGreaterThan(20)
  })

  it('says what is not there', async () => {
    const place = { sourceId: bench.sourceId, ...MESSAGES }
    const { pageCount } = await pageMap(bench.db, place)
    await expect(pageView(bench.db, place, pageCount + 1)).rejects.toThrow(`There is no page ${pageCount + 1} here.`)
    await expect(pageMap(bench.db, { ...place, path: 'Library/SMS/other.db' })).rejects.toThrow('is not in this source')
    // What failed is asked anew, and what is open stays so.
    await expect(pageMap(bench.db, { ...place, path: 'Library/SMS/other.db' })).rejects.toThrow('is not in this source')
    await expect(pageView(bench.db, place, 1)).resolves.toMatchObject({ page: 1 })
  })
})
