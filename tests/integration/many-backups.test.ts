import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { FoundBackup } from '@lumbrin/core/backup/discover'
import { byFit, fitsOf } from '@lumbrin/core/findings/backup-fit'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findRead, listReads, listSources } from '../../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { SourceId } from '../../apps/workbench/src/domain/ids.js'
import { addMany } from '../../apps/workbench/src/services/adding-many.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { beginUnlock, forgetKeys, lockState } from '../../apps/workbench/src/services/keyring.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { jobRoute } from '../../apps/workbench/src/services/route.js'
import { searchForBackups } from '../../apps/workbench/src/services/sources.js'
import { scratchFolder } from '../setup/fixtures.js'
import { fillShelf, SHELF_PASSWORD, type Shelved, shelve } from '../setup/shelf.js'
import { migratedDatabase } from './workbench.js'

const LOSS = { from: '2026-06-10', to: '2026-06-20' }

/** How a backup fits by how it was made, without the product’s rules: the key that those are held against. */
function keyOf(shelf: readonly Shelved[], device: number): Map<string, string> {
  const dayOf = (one: Shelved) => one.takenAt.toISOString().slice(0, 10)
  const family = (one: Shelved): Shelved => (one.copyOf ? family(one.copyOf) : one)
  // None of more than a year before the loss is called the one that fits best.
  const before = shelf.filter(
    (one) => one.device === device && !one.copyOf && dayOf(one) <= LOSS.from && dayOf(one) >= '2025-06-10',
  )
  const newest = before.sort((a, b) => b.takenAt.getTime() - a.takenAt.getTime())[0]
  const stands = (one: Shelved) => {
    if (one.device !== device) return 'other'
    if (family(one) === newest) return 'best'
    return dayOf(one) <= LOSS.from ? 'before' : dayOf(one) <= LOSS.to ? 'within' : 'after'
  }
  const families = [...new Set(shelf.map(family))].map((first) => shelf.filter((one) => family(one) === first))
  return new Map(
    families.flatMap((folders) =>
      folders.map((one) => {
        // Any one folder of a state may stand for it, and the others are its copies.
        const alone = folders.length === 1 || one.device !== device
        return [one.folder, alone ? stands(one) : `copy or ${stands(one)}`] as const
      }),
    ),
  )
}

describe('a folder of 200 backups of 30 devices', () => {
  it('is listed whole, each as what it is, and as it fits the job', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const folder = scratchFolder()
    const shelf = await fillShelf(folder, {
      devices: 30,
      backups: 200,
      newest: new Date('2026-11-20T10:00:00Z'),
      seed: 7,
    })
    const found: FoundBackup[] = []
    for await (const step of searchForBackups(db, folder, new AbortController().signal))
      if ('backup' in step) found.push(step.backup)
    expect(found.map(({ path }) => path).sort()).toEqual(shelf.map((one) => one.folder).sort())
    for (const one of shelf)
      expect(found.find(({ path }) => path === one.folder)).toMatchObject({
        deviceName: one.deviceName,
        uniqueId: expect.stringMatching(new RegExp(one.udid, 'i')),
        takenAt: one.takenAt,
        encrypted: one.kind === 'encrypted',
        complete: one.harm !== 'unfinished',
        layout: one.kind === 'legacy' ? 'legacy' : 'modern',
      })
    const facts = found.map((one) => ({ ...one, takenAt: one.takenAt?.toISOString() ?? null }))
    const seen = new Set<string>()
    for (const device of Array.from({ length: 30 }, (_, i) => i)) {
      const of = shelf.find((one) => one.device === device)
      if (!of) continue
      const question = { ...LOSS, zone: 'UTC', devices: [of.udid], named: '', wanted: ['messages'] as const, added: [] }
      const fits = fitsOf(facts, question)
      const key = keyOf(shelf, device)
      for (const [path, should] of key) {
        const is = fits.get(path) ?? ''
        seen.add(is)
        expect(should.split(' or '), `${path} for device ${device}`).toContain(is)
      }
      // Of each state exactly one folder is read.
      const read = [...key].filter(([path, should]) => should.includes(' or ') && fits.get(path) !== 'copy')
      const states = new Set(read.map(([path]) => found.find((one) => one.path === path)?.takenAt?.getTime()))
      expect(states.size).toBe(read.length)
    }
    expect([...seen].sort()).toEqual(['after', 'before', 'best', 'copy', 'other', 'within'])
  })
})

describe('ten backups read without anybody there', () => {
  it('are read in the order that answers soonest; one that is damaged and one with another password need a hand', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const job = await openJob(
      db,
      briefSchema.parse({ owner: 'Odile Varga', categories: ['messages'], lostFrom: LOSS.from, lostTo: LOSS.to }),
    )
    const folder = scratchFolder()
    const shelf: Shelved[] = []
    for (let i = 0; i < 10; i++)
      shelf.push(
        await shelve({
          folder: join(folder, `backup ${i}`),
          device: 0,
          kind: i === 2 || i === 3 ? 'encrypted' : 'plain',
          harm: i === 4 ? 'list' : null,
          takenAt: new Date(`2026-0${i + 1 > 9 ? 9 : i + 1}-0${(i % 9) + 1}T10:00:00Z`),
          messages: ['Are the strings cut?', `Rehearsal ${i}`],
          ...(i === 2 ? { password: 'ten strings' } : {}),
        }),
      )
    const facts = shelf.map((one) => ({
      path: one.folder,
      deviceName: one.deviceName,
      uniqueId: one.udid,
      kind: 'computer-backup' as const,
      encrypted: one.password !== null,
      osVersion: '17.6',
      complete: true,
      files: 1,
      takenAt: one.takenAt.toISOString(),
    }))
    const fits = fitsOf(facts, { ...LOSS, zone: 'UTC', devices: [], named: '', wanted: ['messages'], added: [] })
    const order = byFit(facts, fits).map(({ path }) => path)
    // That of June is the newest from before the loss.
    expect(order[0]).toBe(shelf[5]?.folder)
    const folders = [...order, join(folder, 'nothing')]
    const { added, refused } = await addMany(db, job.id, {
      folders,
      password: SHELF_PASSWORD,
      read: true,
      enough: null,
    })
    onTestFinished(() => added.forEach(forgetKeys))
    expect(added.length).toBe(10)
    expect(refused).toEqual([{ folder: join(folder, 'nothing'), why: expect.stringContaining('Nothing was added') }])
    const sources = await listSources(db, job.id)
    const idOf = (i: number) => sources.find(({ path }) => path === shelf[i]?.folder)?.id as SourceId
    while (lockState(idOf(3)).state !== 'open') await sleep(10)
    while (lockState(idOf(2)).message === null) await sleep(10)

    const read: string[] = []
    for (let id = await claimWork(db, 'reads', 'test:1'); id; id = await claimWork(db, 'reads', 'test:1')) {
      await runRead(db, id, new AbortController().signal)
      const sourceId = (await findRead(db, id))?.sourceId
      read.push(sources.find((one) => one.id === sourceId)?.path ?? '')
    }
    expect(read).toEqual(order)
    const stands = async () =>
      Object.fromEntries(
        (await listReads(db, job.id)).map((one) => [
          shelf.findIndex(({ folder }) => folder === sources.find(({ id }) => id === one.sourceId)?.path),
          one,
        ]),
      )
    const night = await stands()
    expect(Object.values(night).filter(({ state }) => state === 'done').length).toBe(8)
    expect(night[4]).toMatchObject({ state: 'gaps' })
    expect(night[4]?.warnings[0]).toMatchObject({ path: expect.stringContaining('Manifest.db') })
    expect(night[2]).toMatchObject({ state: 'away', waitsFor: expect.stringContaining('password') })
    const route = await jobRoute(db, job.id)
    expect(route.steps.find(({ rule }) => rule.startsWith('unlock'))).toBeTruthy()
    expect(route.steps.some(({ rule }) => rule.startsWith('away'))).toBe(false)

    // Without the password it goes on waiting; with it, it goes on by itself.
    await resumeReturned(db)
    expect((await stands())[2]?.state).toBe('away')
    await beginUnlock(db, idOf(2), 'ten strings')
    while (lockState(idOf(2)).state === 'opening') await sleep(10)
    await resumeReturned(db)
    const next = await claimWork(db, 'reads', 'test:1')
    expect(next).toBe(night[2]?.id)
    if (next) await runRead(db, next, new AbortController().signal)
    expect((await stands())[2]?.state).toBe('done')
  })
})
