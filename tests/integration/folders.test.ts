import { mkdirSync, symlinkSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { listLog } from '../../apps/workbench/src/database/log.js'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import { listFolders, openFolder } from '../../apps/workbench/src/services/folders.js'
import { rememberedFormats, startHandover } from '../../apps/workbench/src/services/handovers.js'
import { closeShare, entryOf, openShare, SHARE_USER } from '../../apps/workbench/src/services/share.js'
import { nodeAt, nodesIn, tableAt } from '../../apps/workbench/src/services/shared-folder.js'
import { freeSpace } from '../../apps/workbench/src/services/space.js'
import { all, demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith, workbenchWithTray } from './workbench.js'

const { folder, truth } = demoBackup(inject('demoFolder'))
const basic = (user: string, password: string) => `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`

describe('the folder picker', () => {
  it('lists what lies below the allowed folders, marks handovers, and goes no further', async () => {
    const { db } = await workbenchWith(inject('databaseUrl'), folder)
    const root = process.env.LUMBRIN_ROOTS ?? ''
    for (const name of ['b', 'a/inside', '.hidden', 'given']) mkdirSync(join(root, name), { recursive: true })
    mkdirSync(join(root, 'given/bagit.txt'))
    symlinkSync(scratchFolder(), join(root, 'link'))
    expect(await listFolders(db, null)).toMatchObject({ path: null, parent: null, folders: [{ name: root }] })
    const top = await listFolders(db, root)
    expect(top.folders.map(({ name, isHandover }) => [name, isHandover])).toEqual([
      ['a', false],
      ['b', false],
      ['given', true],
    ])
    expect(top.parent).toBeNull()
    // Others write to the same disk meanwhile.
    expect(Math.abs(top.freeBytes - (await freeSpace(root)))).toBeLessThan(1 << 30)
    expect(await listFolders(db, join(root, 'a'))).toMatchObject({ parent: root, folders: [{ name: 'inside' }] })
    for (const outside of ['/', join(root, '..'), join(root, 'link'), '/etc'])
      await expect(listFolders(db, outside)).rejects.toMatchObject({ code: 'forbidden' })
    await expect(listFolders(db, join(root, 'nothing'))).rejects.toMatchObject({ code: 'unusable' })
  })

  it('opens only folders that are there', async () => {
    await expect(openFolder('/nowhere/at/all')).rejects.toMatchObject({ code: 'not-found' })
  })
})

describe('formats of a handover', () => {
  it('are remembered, and refused where they make no sense', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const start = (formats: Parameters<typeof startHandover>[3]) =>
      startHandover(bench.db, bench.jobId, { kind: 'folder', folder: join(bench.root, 'package') }, formats)
    await expect(start({ formats: { photos: [] }, duplicates: 'once' })).rejects.toMatchObject({ code: 'invalid' })
    await expect(start({ formats: { photos: ['vcard'] }, duplicates: 'once' })).rejects.toMatchObject({
      code: 'invalid',
    })
    expect(await rememberedFormats(bench.db)).toEqual({})
    await start({ formats: { photos: ['albums', 'csv'] }, duplicates: 'each' })
    expect(await rememberedFormats(bench.db)).toEqual({ photos: ['albums', 'csv'] })
  })

  it('are not written where there is too little room', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    await bench.db('findings').update({ bytes: 1e15 })
    await expect(
      startHandover(bench.db, bench.jobId, { kind: 'folder', folder: join(bench.root, 'package') }),
    ).rejects.toMatchObject({ code: 'conflict', message: expect.stringContaining('are free there') })
  })
})

const mayEnter = (jobId: JobId, authorization: string | null) => entryOf(jobId, authorization).state === 'open'

describe('the network folder', () => {
  it('has passwords that are typed without a doubt, and that no command takes for an option', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    for (let turn = 0; turn < 100; turn++)
      expect((await openShare(db, jobId)).password).toMatch(/^[2-9A-HJ-NP-Za-km-np-z]{17}$/)
  })

  it('makes whoever guesses wait longer and longer, and forgets it once somebody knows the password', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    const { password } = await openShare(db, jobId)
    let now = Date.now()
    const waits: number[] = []
    for (let guess = 0; guess < 20; guess++) {
      const entry = entryOf(jobId, basic(SHARE_USER, `guess ${guess}`), now)
      if (entry.state === 'shut') {
        // Not even the right one opens it then.
        expect(entryOf(jobId, basic(SHARE_USER, password), now)).toEqual(entry)
        waits.push(entry.seconds)
        now += 1000 * entry.seconds
      } else expect(entry.state).toBe('wrong')
      // To ask without a password is no guess.
      expect(entryOf(jobId, null, now).state).toBe('wrong')
    }
    expect(waits.slice(0, 4)).toEqual([1, 2, 4, 8])
    expect(waits.length).toBeGreaterThan(5)
    expect(entryOf(jobId, basic(SHARE_USER, password), now + 300_000).state).toBe('open')
    expect(entryOf(jobId, basic(SHARE_USER, 'x'), now + 300_000).state).toBe('wrong')
    await closeShare(db, jobId)
  })

  it('lets in whoever has its newest password, until it is closed', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    expect(mayEnter(jobId, basic(SHARE_USER, ''))).toBe(false)
    const first = await openShare(db, jobId)
    const second = await openShare(db, jobId)
    expect(mayEnter(jobId, basic(SHARE_USER, first.password))).toBe(false)
    expect(mayEnter(jobId, basic(SHARE_USER, second.password))).toBe(true)
    for (const wrong of [null, '', 'Bearer x', 'Basic ?', basic('root', second.password), basic(SHARE_USER, 'x')])
      expect(mayEnter(jobId, wrong)).toBe(false)
    expect(mayEnter((jobId + 1) as JobId, basic(SHARE_USER, second.password))).toBe(false)
    await closeShare(db, jobId)
    expect(mayEnter(jobId, basic(SHARE_USER, second.password))).toBe(false)
    const log = JSON.stringify(await listLog(db, jobId))
    expect(log).toContain('Network folder opened')
    expect(log).not.toContain(second.password)
  })

  it('holds every file once, below its month, and a table of all items', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const at = (...path: string[]) => nodesIn(bench.db, bench.jobId, path)
    expect((await at())?.map((node) => node.name)).toEqual(['Tray', 'Findings'])
    expect((await at('Tray'))?.map((node) => node.name)).toEqual(['Photos'])
    const shelves = ((await at('Tray', 'Photos')) ?? []).filter((node) => node.kind === 'folder')
    const files = (await Promise.all(shelves.map((shelf) => at('Tray', 'Photos', shelf.name)))).flatMap(
      (list) => list ?? [],
    )
    expect(files.length).toBe(truth.pictures.filter((one) => one.fate !== 'deleted').length)
    for (const [i, shelf] of shelves.entries())
      for (const file of i < 3 ? ((await at('Tray', 'Photos', shelf.name)) ?? []) : []) {
        expect(shelf.name).toBe(file.modifiedAt?.toISOString().slice(0, 7))
        expect(await nodeAt(bench.db, bench.jobId, ['Tray', 'Photos', shelf.name, file.name])).toEqual(file)
      }
    const table = await tableAt(bench.db, bench.jobId, ['Tray', 'Photos', 'Photos.csv'])
    expect((await all(table ?? (async function* () {})())).length).toBe(1 + bench.ids.length)
    for (const path of [
      ['Nothing'],
      ['Tray', 'Secrets'],
      ['Tray', 'Photos', '..'],
      ['Tray', 'Photos', '2026-05', 'x', 'y'],
    ])
      expect(await at(...path)).toBeUndefined()
  })
})
