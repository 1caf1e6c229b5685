import { createHash } from 'node:crypto'
import { join } from 'node:path'
import { readAll } from '@lumbrin/core/io/source'
import { beforeEach, describe, expect, inject, it } from 'vitest'
import { summariseTray } from '../../apps/workbench/src/database/tray.js'
import {
  integrityOf,
  listFiles,
  openFile,
  peekFile,
  pickFile,
  sourceIntegrity,
  sourceOverview,
} from '../../apps/workbench/src/services/contents.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const MESSAGES = { domain: 'HomeDomain', path: 'Library/SMS/sms.db' }

/** What SQLite's own shell reads from the backup's list of files; flags: 1 file, 2 folder, 4 link. */
const listed = (columns: string, rest: string): string[][] =>
  tool('sqlite3', '-separator', '\t', join(folder, 'Manifest.db'), `SELECT ${columns} FROM Files ${rest}`)
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => line.split('\t'))

describe('what a source holds', () => {
  let bench: Workbench
  beforeEach(async () => {
    bench = await workbenchWith(inject('databaseUrl'), folder)
  })

  it('is counted by domain as the backup’s list has it, and by category within that', async () => {
    const { domains, categories } = await sourceOverview(bench.db, bench.sourceId)
    const files = listed('domain, COUNT(*)', 'WHERE flags = 1 GROUP BY domain ORDER BY domain')
    const name = (one: { domain: string }) => one.domain
    expect(domains.map((one) => [name(one), String(one.files)]).sort()).toEqual(files.sort())
    expect(domains.map(({ bytes }) => bytes)).toEqual(domains.map(({ bytes }) => bytes).sort((a, b) => b - a))
    const all = domains.reduce((sum, { bytes }) => sum + bytes, 0)
    for (const { category, files, bytes } of categories) {
      expect(files, category).toBeGreaterThan(0)
      expect(bytes, category).toBeLessThanOrEqual(all)
    }
  })

  it('is listed folder by folder, each with what lies below it', async () => {
    const { db, sourceId } = bench
    const top = await listFiles(db, sourceId, { domain: '', folder: '' }, '')
    expect(top.lines.map(({ name }) => name).sort()).toEqual(listed('DISTINCT domain', '').flat().sort())
    const library = await listFiles(db, sourceId, { domain: 'HomeDomain', folder: 'Library' }, '')
    for (const line of library.lines.filter(({ kind }) => kind === 'folder')) {
      const below = `WHERE domain = 'HomeDomain' AND flags = 1 AND relativePath LIKE '${line.path}/%'`
      expect([[String(line.files)]], line.path).toEqual(listed('COUNT(*)', below))
    }
    const inside = await listFiles(db, sourceId, { domain: 'HomeDomain', folder: 'Library/SMS' }, '')
    expect(inside.lines).toContainEqual(expect.objectContaining({ ...MESSAGES, name: 'sms.db', kind: 'file' }))
    // Folders come first, and every line can be opened by what it says of itself.
    const kinds = inside.lines.map(({ kind }) => kind === 'folder')
    expect(kinds).toEqual([...kinds].sort((a, b) => Number(b) - Number(a)))
    expect((await listFiles(db, sourceId, { domain: 'HomeDomain', folder: 'Nowhere' }, '')).lines).toEqual([])
    // A folder's name that begins like another's is another folder.
    expect((await listFiles(db, sourceId, { domain: 'HomeDomain', folder: 'Library/SM' }, '')).lines).toEqual([])
  })

  it('is found by words of its path, in any case', async () => {
    const { lines, more } = await listFiles(
      bench.db,
      bench.sourceId,
      { domain: 'HomeDomain', folder: 'Library' },
      'SMS.DB',
    )
    expect(more).toBe(false)
    const paths = listed('domain, relativePath', "WHERE flags != 2 AND domain || '/' || relativePath LIKE '%sms.db%'")
    expect(lines.map(({ domain, path }) => [domain, path]).sort()).toEqual(paths.sort())
  })

  it('is looked into by what its bytes are', async () => {
    const { db, sourceId } = bench
    const peek = (place: { domain: string; path: string }, table?: string) => peekFile(db, sourceId, place, table)
    const messages = await peek(MESSAGES, 'chat')
    expect(messages).toMatchObject({ kind: 'database', tables: expect.arrayContaining(['chat', 'message', 'handle']) })
    const [id, path] =
      listed('fileID, relativePath', "WHERE domain = 'HomeDomain' AND relativePath = 'Library/SMS/sms.db'")[0] ?? []
    const stored = join(folder, id?.slice(0, 2) ?? '', id ?? '')
    const chats = tool('sqlite3', '-separator', '\t', stored, 'SELECT ROWID, guid FROM chat ORDER BY ROWID LIMIT 101')
      .trim()
      .split('\n')
    if (messages.kind === 'database') {
      const { table } = messages
      const at = ['ROWID', 'guid'].map((name) => table?.columns.indexOf(name) ?? -1) as [number, number]
      expect(table?.rows.map((row) => `${row[at[0]]}\t${row[at[1]]}`)).toEqual(chats.slice(0, 100))
      expect(table?.more).toBe(chats.length > 100)
    }
    // A table that is not there: the first one is shown instead.
    expect(await peek({ ...MESSAGES, path: path ?? '' }, 'no such')).toMatchObject({
      kind: 'database',
      table: { name: expect.any(String) },
    })
    const [picture] = listed('domain, relativePath', "WHERE relativePath LIKE '%.JPG' LIMIT 1")
    expect(await peek({ domain: picture?.[0] ?? '', path: picture?.[1] ?? '' })).toEqual({ kind: 'picture' })
    const [list] = listed('domain, relativePath', "WHERE relativePath LIKE '%.plist' LIMIT 1")
    expect(await peek({ domain: list?.[0] ?? '', path: list?.[1] ?? '' })).toMatchObject({ kind: 'plist' })
    await expect(peek({ ...MESSAGES, path: 'Library/SMS' })).rejects.toThrow('does not hold its content')
  })

  it('comes out byte for byte', async () => {
    for (const [id, domain, path] of listed(
      'fileID, domain, relativePath',
      'WHERE flags = 1 ORDER BY fileID LIMIT 12',
    )) {
      const { source } = await openFile(bench.db, bench.sourceId, { domain: domain as string, path: path as string })
      const sha256 = createHash('sha256')
        .update(await readAll(source, 1 << 28))
        .digest('hex')
      await source.close()
      expect(tool('sha256sum', join(folder, (id as string).slice(0, 2), id as string)), path).toContain(sha256)
    }
  })

  it('can be picked into the tray, once', async () => {
    const { db, jobId, sourceId } = bench
    await pickFile(db, sourceId, MESSAGES)
    await pickFile(db, sourceId, MESSAGES)
    expect(await summariseTray(db, jobId)).toMatchObject([{ category: 'other-files', count: 1 }])
    await expect(pickFile(db, sourceId, { ...MESSAGES, path: 'no/such' })).rejects.toThrow('There is no such file')
    await expect(pickFile(db, sourceId, { ...MESSAGES, path: 'Library/SMS' })).rejects.toThrow('There is no such file')
  })

  it('is checked step by step with the same result as at once, and stops where it is told', async () => {
    const { db, sourceId } = bench
    const whole = await sourceIntegrity(db, sourceId)
    const steps = []
    for await (const step of integrityOf(db, sourceId, new AbortController().signal)) steps.push(step)
    expect(steps.at(-1)).toEqual({ report: { ...whole, checkedAt: expect.any(String) } })
    const stop = new AbortController()
    stop.abort()
    const none = []
    for await (const step of integrityOf(db, sourceId, stop.signal)) none.push(step)
    expect(none.some((step) => 'report' in step && step.report)).toBe(false)
  })
})
