import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { openSource } from '@lumbrin/core/collected/open'
import { readAll } from '@lumbrin/core/io/source'
import { DEMO_ACCOUNT } from '@lumbrin/standins/cloud/demo'
import { NO_FAULTS } from '@lumbrin/standins/cloud/service'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findJob } from '../../apps/workbench/src/database/jobs.js'
import { listLog } from '../../apps/workbench/src/database/log.js'
import { countFacets } from '../../apps/workbench/src/database/queries.js'
import { findRead, findSource } from '../../apps/workbench/src/database/sources.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import type { HandoverId, ReadId } from '../../apps/workbench/src/domain/ids.js'
import {
  addArchives,
  addLibrary,
  addSnapshot,
  cloudState,
  confirmCloud,
  signInToCloud,
  signOutOfCloud,
} from '../../apps/workbench/src/services/cloud.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover } from '../../apps/workbench/src/services/handovers.js'
import { fetchedFolder } from '../../apps/workbench/src/services/job-folder.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { keptOf, purgeJob } from '../../apps/workbench/src/services/purging.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, resumeRead, startRead } from '../../apps/workbench/src/services/sources.js'
import { startCloud } from '../setup/cloud.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const { folder, truth } = demoBackup(inject('demoFolder'))
const { name, password, code } = DEMO_ACCOUNT
const KINDS = ['photos', 'messages', 'contacts'] as const

async function benchWithCloud(times = {}) {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const service = await startCloud(inject('demoFolder'), times)
  process.env.LUMBRIN_CLOUD = service.address
  onTestFinished(async () => {
    await signOutOfCloud(bench.db, bench.jobId)
    delete process.env.LUMBRIN_CLOUD
  })
  const read = async (id: ReadId) => {
    await claimWork(bench.db, 'reads', 'test:1')
    await runRead(bench.db, id, new AbortController().signal)
    return findRead(bench.db, id)
  }
  const signIn = async () => {
    await signInToCloud(bench.jobId, name, password)
    await confirmCloud(bench.db, bench.jobId, code as string)
  }
  return { ...bench, service, read, signIn }
}

describe('signing in to the cloud', () => {
  it('takes two steps, says what is wrong in each, and ends for good', async () => {
    const { db, jobId } = await benchWithCloud()
    expect(await cloudState(jobId)).toEqual({ step: 'out' })
    await expect(signInToCloud(jobId, name, 'wrong')).rejects.toThrow('4 tries are left')
    await signInToCloud(jobId, name, password)
    expect(await cloudState(jobId)).toMatchObject({ step: 'code', account: name })
    await expect(confirmCloud(db, jobId, '000000')).rejects.toThrow('The code is wrong')
    await confirmCloud(db, jobId, code as string)
    expect(await cloudState(jobId)).toMatchObject({
      step: 'in',
      account: { name, syncs: { messages: false } },
      devices: [{ snapshots: [{ id: 'snapshot-1' }] }],
    })
    // Neither password nor code may lie in the database.
    for (const table of ['jobs', 'log', 'sources', 'settings'])
      expect(JSON.stringify(await db(table).select())).not.toMatch(new RegExp(`${password}|${code}`))
    await signOutOfCloud(db, jobId)
    expect(await cloudState(jobId)).toEqual({ step: 'out' })
  })

  it('is refused for a while after too many tries', async () => {
    const { jobId } = await benchWithCloud()
    for (let i = 0; i < 5; i++)
      await expect(signInToCloud(jobId, name, 'wrong')).rejects.toMatchObject({ code: 'wrong-password' })
    await expect(signInToCloud(jobId, name, password)).rejects.toThrow('refuses this account for a while')
  })

  it('begins again when a code has run out', async () => {
    const { db, jobId } = await benchWithCloud({ codeMs: 0 })
    await signInToCloud(jobId, name, password)
    await sleep(10)
    await expect(confirmCloud(db, jobId, code as string)).rejects.toThrow('not valid any more')
    expect(await cloudState(jobId)).toEqual({ step: 'out' })
  })

  it('says what an account with extra protection cannot give, and shows the rest', async () => {
    const { db, jobId } = await benchWithCloud()
    await signInToCloud(jobId, 'bram@theatre.example', 'hinge and peg')
    await confirmCloud(db, jobId, '314159')
    expect(await cloudState(jobId)).toMatchObject({
      step: 'in',
      devices: [],
      problem: expect.stringContaining('extra protection'),
    })
    await expect(addSnapshot(db, jobId, 'snapshot-1')).rejects.toThrow('extra protection')
  })
})

describe('a cloud backup as a source', () => {
  it('gives the findings of the backup, downloads only what is wanted, and nothing twice', async () => {
    const { db, jobId, sourceId, service, read, signIn } = await benchWithCloud()
    await read(await startRead(db, sourceId, { categories: KINDS, passes: ['live', 'residue'] }))
    const before = await countFacets(db, jobId)
    await signIn()
    const cloud = await addSnapshot(db, jobId, 'snapshot-1')
    const listed = service.counts.get('chunks') ?? 0
    expect(listed).toBe(0)
    expect(
      await read(await startRead(db, cloud, { categories: ['messages', 'contacts'], passes: ['live', 'residue'] })),
    ).toMatchObject({
      state: 'done',
      error: null,
      warnings: [],
    })
    const some = service.counts.get('chunks') ?? 0
    expect(await read(await startRead(db, cloud, { categories: KINDS, passes: ['live', 'residue'] }))).toMatchObject({
      state: 'done',
    })
    expect(await countFacets(db, jobId)).toEqual(before)
    const all = service.counts.get('chunks') ?? 0
    const pictures = truth.pictures.filter(({ fate }) => fate !== 'deleted').length
    expect(all - some).toBeGreaterThanOrEqual(pictures)
    expect(await read(await startRead(db, cloud, { categories: ['places'], passes: ['live'] }))).toMatchObject({
      state: 'done',
    })
    expect(service.counts.get('chunks')).toBe(all)
  })

  it.each([
    ['asked to slow down', { throttleEvery: 9 }],
    ['cut off', { dropEvery: 7 }],
    ['sent damaged pieces', { damageEvery: 5 }],
    ['all of it', { throttleEvery: 31, dropEvery: 13, damageEvery: 11 }],
  ])('comes whole when it is %s', async (_, faults) => {
    const { db, jobId, service, read, signIn } = await benchWithCloud()
    await signIn()
    const cloud = await addSnapshot(db, jobId, 'snapshot-1')
    Object.assign(service.faults, faults)
    expect(
      await read(await startRead(db, cloud, { categories: ['messages', 'photos'], passes: ['live'] })),
    ).toMatchObject({
      state: 'done',
    })
    Object.assign(service.faults, NO_FAULTS)
    const kept = fetchedFolder(jobId, 'cloud-snapshot-1')
    let compared = 0
    for (const shelf of readdirSync(join(kept, 'contents')))
      for (const id of readdirSync(join(kept, 'contents', shelf))) {
        expect(readFileSync(join(kept, 'contents', shelf, id)).equals(readFileSync(join(folder, shelf, id))), id).toBe(
          true,
        )
        compared++
      }
    expect(compared).toBeGreaterThan(20)
  })

  it('renews its session amid a read, and says what to do when it has ended', async () => {
    const { db, jobId, service, read, signIn } = await benchWithCloud()
    await signIn()
    const cloud = await addSnapshot(db, jobId, 'snapshot-1')
    service.faults.bytesPerSecond = 1_000_000
    const chunks = () => service.counts.get('chunks') ?? 0
    const reading = read(await startRead(db, cloud, { categories: ['messages', 'photos'], passes: ['live'] }))
    for (const [asked, renewed] of [
      [3, 0],
      [9, 1],
    ] as const) {
      while (chunks() < asked || (service.counts.get('tokens') ?? 0) < renewed) await sleep(5)
      service.accounts.lapseAll()
    }
    expect(await reading).toMatchObject({ state: 'done' })
    expect(service.counts.get('tokens')).toBeGreaterThanOrEqual(2)
    service.accounts.endAll()
    const id = await startRead(db, cloud, { categories: ['notes'], passes: ['live'] })
    expect(await read(id)).toMatchObject({ state: 'away', waitsFor: expect.stringContaining('Sign in again') })
    await signIn()
    await resumeRead(db, id)
    expect(await read(id)).toMatchObject({ state: 'done' })
  })

  it('keeps what came when the service goes away, and goes on after it', async () => {
    const { db, jobId, service, signIn, read } = await benchWithCloud()
    await signIn()
    const cloud = await addSnapshot(db, jobId, 'snapshot-1')
    service.faults.bytesPerSecond = 40_000
    const id = await startRead(db, cloud, { categories: ['photos'], passes: ['live'] })
    const stop = new AbortController()
    await claimWork(db, 'reads', 'test:1')
    const running = runRead(db, id, stop.signal)
    const path = (await findSource(db, cloud))?.path ?? ''
    const whole = () => readdirSync(path, { recursive: true }).filter((name) => /[0-9a-f]{40}$/.test(String(name)))
    while (whole().length < 8) await sleep(20)
    // The reader is told to end, as at every restart: the read waits for the next one.
    stop.abort()
    await running
    expect(await findRead(db, id)).toMatchObject({ state: 'queued' })
    const asked = service.counts.get('chunks') ?? 0
    service.faults.bytesPerSecond = 0
    expect(await read(id)).toMatchObject({ state: 'done' })
    const pieces = service.data.photos.reduce((sum, { file }) => sum + file.chunks.length, 0)
    // Pieces on their way when it stopped are asked for once more; whole files are not.
    expect((service.counts.get('chunks') ?? 0) - asked).toBeLessThan(pieces)
  })
})

describe('a cloud library', () => {
  it('gives pictures and deleted files with their bin, and what archives still had', async () => {
    const { db, jobId, read, signIn } = await benchWithCloud()
    await signIn()
    const library = await addLibrary(db, jobId)
    expect(
      await read(await startRead(db, library, { categories: ['photos', 'app-files'], passes: ['live'] })),
    ).toMatchObject({
      state: 'done',
    })
    const facets = await countFacets(db, jobId)
    const fates = (fate: string) => truth.pictures.filter((one) => one.fate === fate).length
    // No state of a device was read: all of it is in the account alone, with what is in its bin.
    expect(facets.photos).toEqual({ elsewhere: fates('live') + fates('binned') })
    expect(facets['app-files']).toEqual({ elsewhere: 2 })
    const [binned] = await db('findings').whereNotNull('binned_at').count({ count: '*' })
    expect(binned?.count).toBe(fates('binned') + 2)
    const state = await cloudState(jobId)
    const day = state.step === 'in' ? state.archives[0]?.takenAt : undefined
    const archives = await addArchives(db, jobId, day as Date)
    expect(
      await read(await startRead(db, archives, { categories: ['contacts', 'bookmarks'], passes: ['live'] })),
    ).toMatchObject({
      state: 'done',
    })
    expect((await countFacets(db, jobId)).contacts?.elsewhere).toBeGreaterThan(5)
  })

  it('that is cut off and there again at once gives each picture whole, written by one try alone', async () => {
    const { db, jobId, service, read, signIn } = await benchWithCloud()
    await signIn()
    const library = await addLibrary(db, jobId)
    const { port } = new URL(service.address)
    service.faults.bytesPerSecond = 200_000
    const id = await startRead(db, library, { categories: ['photos'], passes: ['live'] })
    const running = read(id)
    while ((service.counts.get('chunks') ?? 0) < 10) await sleep(5)
    await service.close()
    expect(await running).toMatchObject({ state: 'away' })
    service.faults.bytesPerSecond = 0
    await service.listen(Number(port))
    await resumeReturned(db)
    expect(await read(id)).toMatchObject({ state: 'done' })
    const tree = await openSource((await findSource(db, library))?.path ?? '', () => {})
    for (const { file } of service.data.photos) {
      const chunks = await Promise.all(file.chunks.map(({ sha256 }) => service.data.chunk(sha256)))
      const entry = tree.find(file.domain, file.path)
      const content = entry && (await tree.open(entry))
      const bytes = content && Buffer.from(await readAll(content, 1 << 26))
      expect(bytes?.equals(Buffer.concat(chunks.map((chunk) => chunk ?? new Uint8Array(0)))), file.path).toBe(true)
      await content?.close()
    }
  })
})

describe('purging a job', () => {
  it('removes content of every kind from disk and database, and leaves a record', async () => {
    const { db, jobId, sourceId, read, signIn } = await benchWithCloud()
    await signIn()
    const cloud = await addSnapshot(db, jobId, 'snapshot-1')
    await read(
      await startRead(db, sourceId, { categories: ['messages', 'contacts', 'notes'], passes: ['live', 'residue'] }),
    )
    await read(await startRead(db, cloud, { categories: ['messages', 'photos'], passes: ['live'] }))
    const ids = await db('findings').where({ job_id: jobId, category: 'messages' }).limit(20).pluck('id')
    await addToTray(db, jobId, ids.map(Number))
    await startHandover(db, jobId, { kind: 'zip' })
    await runHandover(db, (await claimWork(db, 'handovers', 'test:1')) as HandoverId, new AbortController().signal)
    const { number } = (await findJob(db, jobId)) ?? { number: '' }
    const kept = await keptOf(db, jobId)
    expect(kept.folders.map(({ kind }) => kind)).toEqual([
      'fetched from devices and the cloud',
      'packages for download',
    ])
    const words = truth.messages.slice(0, 40).map(({ text }) => text)
    await expect(purgeJob(db, jobId, '2026-9999')).rejects.toThrow('Nothing was removed')
    await purgeJob(db, jobId, number)
    await expect(purgeJob(db, jobId, number)).rejects.toThrow('purged before')
    await expect(addSource(db, jobId, folder)).rejects.toThrow('nothing can be added')
    await expect(addSnapshot(db, jobId, 'snapshot-1')).rejects.toThrow()
    // On disk: nothing of ours holds a file of the job; the key that signs packages is the installation's.
    const left = readdirSync(process.env.LUMBRIN_DATA ?? '', { recursive: true, withFileTypes: true })
    expect(left.filter((entry) => entry.isFile()).map(({ name }) => name)).toEqual(['signing-key.pem'])
    // In the database: no row of the job, no word of its messages in any table's file.
    expect(Object.values((await keptOf(db, jobId)).rows).every((count) => count === 0)).toBe(true)
    const [[place]] = await db.raw('SELECT @@datadir AS folder, DATABASE() AS name')
    const files = readdirSync(join(place.folder, place.name)).filter((file) => file.endsWith('.ibd'))
    // Beside tests that write all the time the database may still be about it.
    const holding = () =>
      files.flatMap((file) => {
        const bytes = readFileSync(join(place.folder, place.name, file))
        return words.filter((text) => bytes.includes(Buffer.from(text))).map((text) => `${file}: ${text}`)
      })
    await expect.poll(holding, { timeout: 240_000, interval: 1000 }).toEqual([])
    expect(files.length).toBeGreaterThan(8)
    const log = await listLog(db, jobId)
    expect(log.filter(({ detail }) => detail !== '').map(({ action }) => action)).toEqual(['Purged'])
    expect(await findJob(db, jobId)).toMatchObject({ number, owner: 'purged', purgedAt: expect.any(Date) })
    // The source itself lies elsewhere, and is as it was.
    expect(statSync(join(folder, 'Manifest.db')).isFile()).toBe(true)
  })
})
