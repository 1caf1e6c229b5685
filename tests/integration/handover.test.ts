import { existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'csv-parse/sync'
import sharp from 'sharp'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findHandover } from '../../apps/workbench/src/database/handovers.js'
import { listLog } from '../../apps/workbench/src/database/log.js'
import { dropEmpty } from '../../apps/workbench/src/database/merging.js'
import { addToTray, removeCategory, removeFromTray, summariseTray } from '../../apps/workbench/src/database/tray.js'
import { findingsInTray } from '../../apps/workbench/src/database/tray-blocks.js'
import type { FindingId, HandoverId } from '../../apps/workbench/src/domain/ids.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover } from '../../apps/workbench/src/services/handovers.js'
import { noteFinding, notesOf } from '../../apps/workbench/src/services/notes.js'
import { changeSettings, versionedSettings } from '../../apps/workbench/src/services/settings.js'
import { demoBackup, scratchFolder, tool } from '../setup/fixtures.js'
import { type Workbench, workbenchWith, workbenchWithTray } from './workbench.js'

const { folder, truth } = demoBackup(inject('demoFolder'))

const withTray = (category: 'photos' | 'messages') => workbenchWithTray(inject('databaseUrl'), folder, category)

async function run(bench: Workbench, id: HandoverId) {
  expect(await claimWork(bench.db, 'handovers', 'test:1')).toBe(id)
  await runHandover(bench.db, id, new AbortController().signal)
  return findHandover(bench.db, id)
}

describe('the tray', () => {
  it('keeps count and size, and takes only what belongs to the job', async () => {
    const bench = await withTray('photos')
    const sum = async () => (await summariseTray(bench.db, bench.jobId)).reduce((count, line) => count + line.count, 0)
    expect(await sum()).toBe(bench.ids.length)
    await addToTray(bench.db, bench.jobId, [...bench.ids, 99_999_999])
    expect(await sum()).toBe(bench.ids.length)
    await removeFromTray(bench.db, bench.jobId, bench.ids.slice(0, 3))
    expect(await sum()).toBe(bench.ids.length - 3)
    await removeCategory(bench.db, bench.jobId, 'photos')
    expect(await sum()).toBe(0)
  })

  it('holds no finding that no sighting is left of', async () => {
    const bench = await withTray('photos')
    const [gone, kept] = bench.ids as [FindingId, FindingId]
    await bench.db('sightings').where({ finding_id: gone }).delete()
    expect(await dropEmpty(bench.db, [gone, kept])).toEqual([kept])
    const left = await findingsInTray(bench.db, bench.jobId).pluck('findings.id')
    expect(left.map(Number).sort()).toEqual(bench.ids.filter((id) => id !== gone).sort())
  })
})

describe('a handover', () => {
  it('has what was noted to an item in its index; a note that is emptied is gone', async () => {
    const bench = await withTray('photos')
    const [noted, emptied] = bench.ids as [FindingId, FindingId]
    await noteFinding(bench.db, noted, 'ask about the "third" one,\nsays Odile')
    await noteFinding(bench.db, emptied, 'x')
    await noteFinding(bench.db, emptied, '')
    expect(await notesOf(bench.db, bench.jobId)).toEqual([
      { finding: noted, text: 'ask about the "third" one,\nsays Odile' },
    ])
    const to = join(bench.root, 'package')
    await run(bench, await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to }))
    const rows = parse(readFileSync(join(to, 'data/index.csv'), 'utf8'), { columns: true }) as { note: string }[]
    expect(rows.map(({ note }) => note).filter(Boolean)).toEqual(['ask about the "third" one,\nsays Odile'])
  })

  it('is copied to a second folder, and says so where that cannot be had', async () => {
    const bench = await withTray('photos')
    const to = join(bench.root, 'package')
    const give = async (second: string) => {
      const where = { kind: 'folder', folder: to } as const
      return run(bench, await startHandover(bench.db, bench.jobId, where, { formats: {}, duplicates: 'once', second }))
    }
    const second = join(bench.root, 'stick/package')
    mkdirSync(join(bench.root, 'stick'))
    expect((await give(second))?.summary?.second).toEqual({ path: second, why: null })
    expect(tool('diff', '-r', to, second)).toBe('')
    mkdirSync(join(bench.root, 'full/of/others'), { recursive: true })
    const again = await give(join(bench.root, 'full'))
    expect(again).toMatchObject({ state: 'done', error: null })
    expect(again?.summary?.second?.why).toContain('is not empty')
    await expect(give(join(to, 'inside'))).rejects.toMatchObject({ code: 'invalid' })
    await expect(give('/elsewhere')).rejects.toMatchObject({ code: 'forbidden' })
    expect(JSON.stringify(await listLog(bench.db, bench.jobId))).toContain('not copied to')
  })

  it('begins its papers as the shop wants them, and tells what was done with the sources', async () => {
    const bench = await withTray('photos')
    const { settings, version } = await versionedSettings(bench.db)
    const square = await sharp({ create: { width: 30, height: 30, channels: 3, background: '#375' } })
      .png()
      .toBuffer()
    const mark = `data:image/png;base64,${square.toString('base64')}`
    const shop = { name: 'Harrow Mill Bench', address: '14 Lower Quay', mark }
    const broken = { ...shop, mark: 'data:image/png;base64,AAAA' }
    await expect(changeSettings(bench.db, { ...settings, shop: broken }, version)).rejects.toThrow('no picture')
    await changeSettings(bench.db, { ...settings, shop }, version)
    const to = join(bench.root, 'package')
    await run(bench, await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to }))
    for (const paper of ['data/report.pdf', 'receipt.pdf'])
      expect(tool('pdftotext', join(to, paper), '-')).toContain('Harrow Mill Bench')
    const page = readFileSync(join(to, 'data/report.html'), 'utf8')
    expect(page).toContain('Looked through: Photos.')
    expect(page).toContain('data:image/jpeg;base64,')
  })

  it('writes the original pictures byte for byte, and sha256sum agrees', async () => {
    const bench = await withTray('photos')
    const to = join(bench.root, 'package')
    const handover = await run(bench, await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to }))
    expect(handover).toMatchObject({ state: 'done', error: null })
    const check = tool('sh', '-c', `cd '${to}' && sha256sum -c manifest-sha256.txt`)
    expect(check).toContain('data/photos/')
    const names = readdirSync(join(to, 'data/photos'), { recursive: true, encoding: 'utf8' }).filter((name) =>
      /\.(JPG|HEIC)$/.test(name),
    )
    expect(names.length).toBe(truth.pictures.filter((picture) => picture.fate !== 'deleted').length)
    expect(readFileSync(join(to, 'data/report.html'), 'utf8')).toContain('Odile Varga')
    expect((await listLog(bench.db, bench.jobId)).map((line) => line.action).slice(0, 2)).toEqual([
      'Handover done',
      'Handover started',
    ])
  })

  it('writes conversations as pages and a table', async () => {
    const bench = await withTray('messages')
    const to = join(bench.root, 'package')
    await run(bench, await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to }))
    const lines = readFileSync(join(to, 'data/index.jsonl'), 'utf8').trim().split('\n')
    expect(lines.length).toBe(bench.ids.length)
    const pages = readdirSync(join(to, 'data/messages')).filter((name) => name.endsWith('.html'))
    expect(pages).toContain('Tour crew.html')
    const html = pages.map((name) => readFileSync(join(to, 'data/messages', name), 'utf8')).join('')
    expect(html.match(/<div class="m[ "]/g)?.length).toBe(bench.ids.length)
  })

  it('stays below the allowed folders, links or not', async () => {
    const bench = await withTray('photos')
    const outside = scratchFolder()
    symlinkSync(outside, join(bench.root, 'link'))
    for (const target of [outside, join(bench.root, '..', 'elsewhere'), join(bench.root, 'link', 'package'), '/'])
      await expect(startHandover(bench.db, bench.jobId, { kind: 'folder', folder: target })).rejects.toMatchObject({
        code: 'forbidden',
      })
    expect(readdirSync(outside)).toEqual([])
  })

  it('fails with words where it cannot write, and leaves nothing behind', async () => {
    const bench = await withTray('photos')
    const to = join(bench.root, 'full')
    mkdirSync(join(to, 'something'), { recursive: true })
    const handover = await run(bench, await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to }))
    expect(handover).toMatchObject({ state: 'failed', error: expect.stringContaining('not empty') })
    expect(readdirSync(bench.root)).toEqual(['full'])
  })

  it('is refused while the tray is empty', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    await expect(startHandover(bench.db, bench.jobId, { kind: 'zip' })).rejects.toMatchObject({ code: 'conflict' })
    expect(existsSync(join(process.env.LUMBRIN_DATA ?? '', 'packages'))).toBe(false)
  })
})
