import { existsSync, readdirSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { openSource } from '@lumbrin/core/collected/open'
import { makeCopy } from '@lumbrin/core/copies/make'
import { copyPlace } from '@lumbrin/core/copies/move'
import { expect, inject, it } from 'vitest'
import { claimWork, releaseOwn } from '../../apps/workbench/src/database/claims.js'
import { findTask, movePlace } from '../../apps/workbench/src/database/copies.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { runCopyTask } from '../../apps/workbench/src/services/copying.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import {
  addPlace,
  copiesPage,
  forgetPlace,
  placeContents,
  startCopyTask,
  stopCopyTask,
} from '../../apps/workbench/src/services/safe-copies.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

async function readOf(bench: Workbench, sourceId: Workbench['sourceId']) {
  const id = await startRead(bench.db, sourceId, { categories: ['photos', 'messages'] })
  await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, id, new AbortController().signal)
  const seen = await bench.db('sightings').where({ source_id: sourceId }).select('title', 'text', 'condition', 'pass')
  return { state: (await findRead(bench.db, id))?.state, seen: seen.map((row) => JSON.stringify(row)).sort() }
}

it('a safe copy in a job gives what its backup gives, and is the same state of the same device', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const tree = await openSource(folder, () => {})
  const { copy } = await makeCopy(tree, join(scratchFolder(), 'place'), { report: () => {} })
  await tree.close()
  const backup = await readOf(bench, bench.sourceId)
  const copied = await readOf(bench, await addSource(bench.db, bench.jobId, copy.folder))
  expect(copied).toEqual(backup)
  expect(copied.state).toBe('done')
  expect(copied.seen.length).toBeGreaterThan(100)
  // Nothing is found twice, and nothing is said to be gone.
  const [{ count }] = (await bench.db('findings').count({ count: '*' })) as [{ count: number }]
  const alone = await bench.db('sightings').where({ source_id: bench.sourceId }).countDistinct({ count: 'finding_id' })
  expect(count).toBe(alone[0]?.count)
})

/** Does what is queued, as the background process does. */
async function workOn(bench: Workbench, signal = new AbortController().signal): Promise<void> {
  const id = await claimWork(bench.db, 'copy_tasks', 'test:1')
  if (id === undefined) throw new Error('nothing is queued')
  await runCopyTask(bench.db, id, signal)
}

const placeIn = (bench: Workbench, name: string) => addPlace(bench.db, join(process.env.LUMBRIN_ROOTS as string, name))

/** A workbench with a copy of its source in a place. */
async function workbenchWithCopy() {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { db } = bench
  const place = await placeIn(bench, 'copies')
  await startCopyTask(db, place, { kind: 'copy', source: bench.sourceId })
  await workOn(bench)
  return { bench, db, place, path: join(process.env.LUMBRIN_ROOTS as string, 'copies') }
}

it('a copy is made, checked and removed as work in a place, and says what it came to', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { db } = bench
  const place = await placeIn(bench, 'copies')
  const task = await startCopyTask(db, place, { kind: 'copy', source: bench.sourceId })
  expect((await findTask(db, task))?.state).toBe('queued')
  await workOn(bench)
  expect(await findTask(db, task)).toMatchObject({ state: 'done', result: { kind: 'copy', made: true, missing: 0 } })
  const { copies } = await placeContents(db, place)
  expect(copies).toMatchObject([{ added: copies[0]?.files, changed: 0, gone: 0, checked: null }])
  const names = copies.map(({ name }) => name)
  const check = await startCopyTask(db, place, { kind: 'check', copies: names })
  await workOn(bench)
  expect(await findTask(db, check)).toMatchObject({ state: 'done', result: { copies: [{ name: names[0], found: 0 }] } })
  expect((await placeContents(db, place)).copies[0]?.checked?.problems).toBe(0)
  const removal = await startCopyTask(db, place, { kind: 'remove', copies: names })
  await workOn(bench)
  expect(await findTask(db, removal)).toMatchObject({ state: 'done', result: { copies: 1, swept: true } })
  expect((await placeContents(db, place)).copies).toEqual([])
  const log = await db('log').where({ job_id: bench.jobId, action: 'Safe copy made' })
  expect(log).toHaveLength(1)
})

it('a place is moved with the sources that lie in it, and the old folder is cleared', async () => {
  const { bench, db, place, path: old } = await workbenchWithCopy()
  const to = `${old} on another disk`
  const [name = ''] = (await placeContents(db, place)).copies.map((copy) => copy.name)
  const source = await addSource(db, bench.jobId, join(old, 'copies', name))
  await expect(startCopyTask(db, place, { kind: 'move', to: old })).rejects.toThrow('already')
  await expect(startCopyTask(db, place, { kind: 'move', to: '/etc/copies' })).rejects.toThrow('outside the folders')
  const task = await startCopyTask(db, place, { kind: 'move', to })
  await workOn(bench)
  expect(await findTask(db, task)).toMatchObject({ state: 'done', result: { kind: 'move', copies: 1, found: 0 } })
  expect((await copiesPage(db)).places).toMatchObject([{ id: place, path: to, away: null }])
  expect((await placeContents(db, place)).copies.map((copy) => copy.name)).toEqual([name])
  expect(existsSync(old)).toBe(false)
  expect((await readOf(bench, source)).state).toBe('done')
})

it('a place of which something cannot be brought along stays where it was, beside the new one', async () => {
  const { bench, db, place, path: old } = await workbenchWithCopy()
  const [shelf = ''] = readdirSync(join(old, 'content')).filter((one) => !one.startsWith('.'))
  const [content = ''] = readdirSync(join(old, 'content', shelf))
  writeFileSync(join(old, 'content', shelf, content), 'not what it was')
  const to = `${old} on another disk`
  const task = await startCopyTask(db, place, { kind: 'move', to })
  await workOn(bench)
  expect((await findTask(db, task))?.result).toMatchObject({ found: 1, problems: [{ why: 'its content is missing' }] })
  expect((await copiesPage(db)).places.map(({ path }) => path)).toEqual([old, to])
  expect(existsSync(join(old, 'content', shelf, content))).toBe(true)
})

it('a move that was broken off behind its end clears the old folder', async () => {
  const { bench, db, place, path: old } = await workbenchWithCopy()
  const to = `${old} on another disk`
  const task = await startCopyTask(db, place, { kind: 'move', to })
  await copyPlace(old, to, {})
  await movePlace(db, old, to)
  await workOn(bench)
  expect(await findTask(db, task)).toMatchObject({ state: 'done', result: { found: 0 } })
  expect(existsSync(old)).toBe(false)
})

it('work that this process is told to leave waits again, and is done to its end by the next', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const place = await placeIn(bench, 'copies')
  const task = await startCopyTask(bench.db, place, { kind: 'copy', source: bench.sourceId })
  const ending = AbortSignal.abort(new Error('the process ends'))
  await workOn(bench, ending)
  expect(await findTask(bench.db, task)).toMatchObject({ state: 'queued', error: null })
  await workOn(bench)
  expect(await findTask(bench.db, task)).toMatchObject({ state: 'done', result: { made: true } })
})

it('work is stopped before it began and while it goes on, and a place with work is not forgotten', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { db } = bench
  const place = await placeIn(bench, 'copies')
  const waiting = await startCopyTask(db, place, { kind: 'copy', source: bench.sourceId })
  await expect(forgetPlace(db, place)).rejects.toThrow('Something is done in this place now')
  await stopCopyTask(db, waiting)
  expect((await findTask(db, waiting))?.state).toBe('stopped')
  await expect(stopCopyTask(db, waiting)).rejects.toThrow('ended')
  // Somebody stops it; its worker dies at once: whoever takes it over ends it.
  const running = await startCopyTask(db, place, { kind: 'copy', source: bench.sourceId })
  await claimWork(db, 'copy_tasks', 'test:2')
  await stopCopyTask(db, running)
  await releaseOwn(db, 'test:2')
  await workOn(bench)
  expect((await findTask(db, running))?.state).toBe('stopped')
  await forgetPlace(db, place)
  await expect(placeContents(db, place)).rejects.toThrow('no such place')
})

it('a disk that is taken away amid a check is told, and nothing on it is called damaged', async () => {
  const { bench, db, place, path } = await workbenchWithCopy()
  const { copies } = await placeContents(db, place)
  const check = await startCopyTask(db, place, { kind: 'check', copies: copies.map(({ name }) => name) })
  renameSync(path, `${path} in a pocket`)
  await workOn(bench)
  expect(await findTask(db, check)).toMatchObject({ state: 'failed', result: null })
  renameSync(`${path} in a pocket`, path)
  expect((await placeContents(db, place)).copies[0]?.checked).toBeNull()
})

it('a copy that waited while its disk was taken away is not made where the disk was', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { db } = bench
  const place = await placeIn(bench, 'copies')
  const task = await startCopyTask(db, place, { kind: 'copy', source: bench.sourceId })
  const path = join(process.env.LUMBRIN_ROOTS as string, 'copies')
  renameSync(path, `${path} in a pocket`)
  await workOn(bench)
  expect(await findTask(db, task)).toMatchObject({ state: 'failed', error: expect.stringContaining('Attach its disk') })
  expect(existsSync(path)).toBe(false)
})

it('what cannot be copied is refused in words, and a place that is away is told', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { db } = bench
  const place = await placeIn(bench, 'copies')
  const locked = await addSource(db, bench.jobId, demoBackup(inject('demoFolder'), 'encrypted').folder)
  await expect(startCopyTask(db, place, { kind: 'copy', source: locked })).rejects.toThrow('is locked')
  await expect(startCopyTask(db, place, { kind: 'check', copies: ['a/b'] })).rejects.toThrow('not there any more')
  await expect(startCopyTask(db, place, { kind: 'remove', copies: [] })).rejects.toThrow('Choose copies')
  await expect(addPlace(db, '/etc')).rejects.toThrow('outside the folders')
  const path = join(process.env.LUMBRIN_ROOTS as string, 'copies')
  renameSync(path, `${path} on another disk`)
  expect((await copiesPage(db)).places[0]?.away).toContain('no place of copies')
  await expect(placeContents(db, place)).rejects.toThrow('no place of copies')
})
