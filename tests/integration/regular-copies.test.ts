import { renameSync } from 'node:fs'
import { join } from 'node:path'
import type { SourceInfo } from '@lumbrin/core/backup/types'
import { mayHold } from '@lumbrin/core/categories/encrypted'
import type { StandInDevice } from '@lumbrin/standins/device/device'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { findTask } from '../../apps/workbench/src/database/copies.js'
import { findRead, findSource } from '../../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { CopyPlaceId } from '../../apps/workbench/src/domain/ids.js'
import { runCopyTask } from '../../apps/workbench/src/services/copying.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import {
  addRegularCopy,
  endRegularCopy,
  followRegularCopies,
} from '../../apps/workbench/src/services/regular-copies.js'
import { addPlace, copiesPage, placeContents, startCopyTask } from '../../apps/workbench/src/services/safe-copies.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { phones } from '../setup/phones.js'
import { migratedDatabase } from './workbench.js'

const DAY_MS = 86_400_000

/** A phone that is not attached, and a place for its copies. */
async function phoneAndPlace() {
  const { db } = await migratedDatabase(inject('databaseUrl'))
  const [one] = await phones(1)
  if (!one) throw new Error('there is no phone')
  const path = join(process.env.LUMBRIN_ROOTS as string, 'copies')
  return { db, phone: one.phone, udid: one.backup.udid, path, place: await addPlace(db, path) }
}

/** Lets a phone be copied each week, and takes it off the cable. */
async function weekly(db: Db, place: CopyPlaceId, phone: StandInDevice, part: 'media' | 'everything' = 'everything') {
  phone.set({ plugged: true })
  const id = await addRegularCopy(db, place, { udid: phone.identity.udid, part, everyDays: 7 })
  phone.set({ plugged: false })
  return id
}

async function workOn(db: Db): Promise<string | undefined> {
  const id = await claimWork(db, 'copy_tasks', 'test:1')
  if (id === undefined) return undefined
  await runCopyTask(db, id, new AbortController().signal)
  return (await findTask(db, id))?.state
}

/** Makes all tasks look as if they had ended so many milliseconds earlier. */
async function pass(db: Db, ms: number): Promise<void> {
  for (const { id, ended_at } of await db('copy_tasks').whereNotNull('ended_at'))
    await db('copy_tasks')
      .where({ id })
      .update({ ended_at: new Date((ended_at as Date).getTime() - ms) })
}

const queued = async (db: Db) => (await db('copy_tasks').where({ state: 'queued' })).length

describe('regular copies of a device', () => {
  it('are made as soon as it is attached once they are due, and not before', async () => {
    const { db, phone, place } = await phoneAndPlace()
    await weekly(db, place, phone)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    phone.set({ plugged: true })
    await followRegularCopies(db)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(1)
    expect(await workOn(db)).toBe('done')
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    const [regular] = (await copiesPage(db)).regular
    expect(regular?.failed).toBeNull()
    expect(regular?.dueAt.getTime()).toBeGreaterThan(Date.now() + 6 * DAY_MS)

    await pass(db, 5 * DAY_MS)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    await pass(db, 2 * DAY_MS)
    // The folder of a copy is named after the second of its state.
    await new Promise((go) => setTimeout(go, 1100))
    await followRegularCopies(db)
    expect(await workOn(db)).toBe('done')
    const { copies } = await placeContents(db, place)
    expect(copies.map(({ device, missing }) => [device, missing])).toEqual([
      [phone.identity.udid.toLowerCase(), 0],
      [phone.identity.udid.toLowerCase(), 0],
    ])
    expect(copies.map(({ added, changed, gone }) => added + changed + gone).at(-1)).toBe(0)
  })

  it('that fail since the cable was pulled say so, and are made when it is back', async () => {
    const { db, phone, place } = await phoneAndPlace()
    await weekly(db, place, phone)
    phone.set({ plugged: true })
    await followRegularCopies(db)
    phone.set({ plugged: false })
    expect(await workOn(db)).toBe('failed')
    const [told] = (await copiesPage(db)).regular
    expect(told).toMatchObject({ lastAt: null, failed: expect.stringContaining('went away') })
    expect((await placeContents(db, place)).copies).toEqual([])
    phone.set({ plugged: true })
    await followRegularCopies(db)
    expect(await queued(db), 'a loose cable is not tried each second').toBe(0)
    await pass(db, 11 * 60_000)
    await followRegularCopies(db)
    expect(await workOn(db)).toBe('done')
    expect((await copiesPage(db)).regular[0]).toMatchObject({ failed: null, lastAt: expect.any(Date) })
  })

  it('wait for a device that is locked, and for a disk that is away', async () => {
    const { db, phone, path, place } = await phoneAndPlace()
    await weekly(db, place, phone)
    phone.set({ plugged: true, locked: true })
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    phone.set({ locked: false })
    renameSync(path, `${path} in a pocket`)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    renameSync(`${path} in a pocket`, path)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(1)
  })

  it('are begun with a device that can be read, once for each place, and end when somebody ends them', async () => {
    const { db, phone, udid, place } = await phoneAndPlace()
    const asked = { udid, part: 'media', everyDays: 7 } as const
    await expect(addRegularCopy(db, place, asked)).rejects.toThrow('not on the cable')
    const id = await weekly(db, place, phone, 'media')
    phone.set({ plugged: true })
    await expect(addRegularCopy(db, place, asked)).rejects.toThrow('already')
    await followRegularCopies(db)
    expect(await workOn(db)).toBe('done')
    await endRegularCopy(db, id)
    await expect(endRegularCopy(db, id)).rejects.toThrow('ended already')
    await pass(db, 30 * DAY_MS)
    await followRegularCopies(db)
    expect(await queued(db)).toBe(0)
    expect((await placeContents(db, place)).copies).toHaveLength(1)
  })
})

it('a copy of the pictures of a device is a source that says nothing of what it does not hold', async () => {
  const { db, phone, udid, path, place } = await phoneAndPlace()
  phone.set({ plugged: true })
  await startCopyTask(db, place, { kind: 'device', udid, part: 'media' })
  expect(await workOn(db)).toBe('done')
  const [copy] = (await placeContents(db, place)).copies
  const { id: job } = await openJob(db, briefSchema.parse({ owner: 'Leda Novak' }))
  const source = await addSource(db, job, join(path, 'copies', copy?.name ?? ''))
  const read = await startRead(db, source, { categories: ['photos', 'messages'] })
  await claimWork(db, 'reads', 'test:1')
  await runRead(db, read, new AbortController().signal)
  const steps = (await findRead(db, read))?.steps.filter(({ category }) => category === 'messages') ?? []
  expect(steps.map(({ account }) => [account?.read, account?.stores])).toContainEqual([0, { '': 'absent' }])
  const info = (await findSource(db, source))?.info as SourceInfo
  expect([mayHold(info, 'photos'), mayHold(info, 'messages')]).toEqual([true, false])
})
