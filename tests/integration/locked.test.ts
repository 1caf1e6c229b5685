import { cpSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { countFacets } from '../../apps/workbench/src/database/queries.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { summariseTray } from '../../apps/workbench/src/database/tray.js'
import type { ReadId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { bringFile, broughtFiles, broughtFolder } from '../../apps/workbench/src/services/bringing.js'
import {
  listFiles,
  peekFile,
  pickFile,
  sourceIntegrity,
  sourceOverview,
} from '../../apps/workbench/src/services/contents.js'
import { beginUnlock, forgetKeys, keysForReader, lockState } from '../../apps/workbench/src/services/keyring.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, resumeRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const locked = demoBackup(inject('demoFolder'), 'encrypted')
const plain = demoBackup(inject('demoFolder'))

async function settled(sourceId: SourceId): Promise<ReturnType<typeof lockState>> {
  while (lockState(sourceId).state === 'opening') await sleep(20)
  return lockState(sourceId)
}

describe('a locked source', () => {
  it('opens the others of its job that have the same password, and is let go of while it opens', async () => {
    const { db, jobId, sourceId } = await workbenchWith(inject('databaseUrl'), locked.folder)
    const copy = join(scratchFolder(), 'copy')
    cpSync(locked.folder, copy, { recursive: true })
    const second = await addSource(db, jobId, copy)
    await beginUnlock(db, sourceId, 'eight strings', true)
    expect(await settled(sourceId)).toMatchObject({ state: 'locked' })
    expect(lockState(second)).toMatchObject({ state: 'locked', message: null })
    await beginUnlock(db, sourceId, 'seven strings', true)
    forgetKeys(sourceId)
    expect(lockState(sourceId)).toMatchObject({ state: 'locked', message: null })
    await beginUnlock(db, sourceId, 'seven strings', true)
    expect(await settled(sourceId)).toMatchObject({ state: 'open' })
    while (lockState(second).state !== 'open') await sleep(20)
    for (const id of [sourceId, second]) forgetKeys(id)
  })

  it('is read once its password was given, and asks again when the keys are gone', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), locked.folder)
    const read = async (id: ReadId) => {
      await claimWork(bench.db, 'reads', 'test:1')
      await runRead(bench.db, id, new AbortController().signal)
      return findRead(bench.db, id)
    }
    const id = await bench.startRead()
    expect(await read(id)).toMatchObject({ state: 'away', waitsFor: expect.stringContaining('password is needed') })

    await beginUnlock(bench.db, bench.sourceId, 'eight strings')
    expect(await settled(bench.sourceId)).toMatchObject({
      state: 'locked',
      message: expect.stringContaining('does not open'),
    })
    await beginUnlock(bench.db, bench.sourceId, 'seven strings')
    await expect(beginUnlock(bench.db, bench.sourceId, 'x')).rejects.toThrow('being opened')
    expect(await settled(bench.sourceId)).toMatchObject({ state: 'open' })

    await resumeRead(bench.db, id)
    expect(await read(id)).toMatchObject({ state: 'done' })
    expect((await countFacets(bench.db, bench.jobId)).messages?.kept).toBe(locked.truth.messages.length)
    const log = await bench.db('log').where({ job_id: bench.jobId }).pluck('action')
    expect(log).toEqual(expect.arrayContaining(['Source unlocked', 'Source unchanged']))
    // Neither the password nor a key may lie in the database.
    for (const table of ['sources', 'reads', 'log'])
      expect(JSON.stringify(await bench.db(table).select())).not.toContain('seven strings')
    forgetKeys(bench.sourceId)
    expect(lockState(bench.sourceId).state).toBe('locked')
  })

  it('gives its keys to a reader that knows the secret, and to nobody else', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), locked.folder)
    process.env.LUMBRIN_READER_SECRET = 's'.repeat(64)
    await beginUnlock(bench.db, bench.sourceId, 'seven strings')
    await settled(bench.sourceId)
    expect((await keysForReader(bench.sourceId, 's'.repeat(64))).length).toBe(7)
    for (const secret of [null, '', 'x'.repeat(64), 's'.repeat(63)])
      await expect(keysForReader(bench.sourceId, secret)).rejects.toMatchObject({ code: 'not-found' })
    delete process.env.LUMBRIN_READER_SECRET
    await expect(keysForReader(bench.sourceId, '')).rejects.toMatchObject({ code: 'not-found' })
    forgetKeys(bench.sourceId)
  })
})

describe('what a source holds', () => {
  it('is told by category, by domain, folder by folder and by words', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), plain.folder)
    const { categories, domains } = await sourceOverview(bench.db, bench.sourceId)
    const kept = plain.truth.pictures.filter((picture) => picture.fate !== 'deleted').length
    // The pictures and the library's database.
    expect(categories.find((part) => part.category === 'photos')?.files).toBe(kept + 1)
    expect(domains.map((part) => part.domain)).toContain('HomeDomain')
    const top = await listFiles(bench.db, bench.sourceId, { domain: '', folder: '' }, '')
    expect(top.lines.map((line) => [line.name, line.kind])).toContainEqual(['CameraRollDomain', 'folder'])
    const folder = await listFiles(
      bench.db,
      bench.sourceId,
      { domain: 'CameraRollDomain', folder: 'Media/DCIM/100APPLE' },
      '',
    )
    expect(folder.lines.filter(({ name }) => /\.(JPG|HEIC)$/.test(name)).length).toBe(kept)
    const found = await listFiles(bench.db, bench.sourceId, { domain: '', folder: '' }, 'SMS.DB')
    expect(found.lines.map((line) => line.path)).toEqual(['Library/SMS/sms.db'])
  })

  it('can be looked into by what it is, and put into the tray', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), plain.folder)
    const database = { domain: 'HomeDomain', path: 'Library/SMS/sms.db' }
    const peek = await peekFile(bench.db, bench.sourceId, database, 'handle')
    expect(peek).toMatchObject({ kind: 'database', table: { name: 'handle', columns: expect.arrayContaining(['id']) } })
    const [picture] = plain.truth.pictures.filter((one) => one.fate === 'live')
    const place = { domain: 'CameraRollDomain', path: `Media/DCIM/100APPLE/${picture?.name}` }
    expect(await peekFile(bench.db, bench.sourceId, place, undefined)).toEqual({ kind: 'picture' })
    for (let twice = 0; twice < 2; twice++) await pickFile(bench.db, bench.sourceId, place)
    expect(await summariseTray(bench.db, bench.jobId)).toMatchObject([
      { category: 'other-files', count: 1, standing: 'kept' },
    ])
    await expect(
      peekFile(bench.db, bench.sourceId, { domain: 'HomeDomain', path: 'no/such' }, undefined),
    ).rejects.toThrow('does not hold')
    expect(await sourceIntegrity(bench.db, bench.sourceId)).toMatchObject({ flawed: [], strays: 1 })
  })
})

describe('a folder that is brought in', () => {
  const body = (text: string) => new Response(text).body
  it('lands below the data folder, is listed for going on, and cannot lead outside', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), plain.folder)
    await bringFile(bench.jobId, 'old phone', 'Manifest.db', body('listed'))
    await bringFile(bench.jobId, 'old phone', 'ab/abc', body('content'))
    expect(await broughtFiles(bench.jobId, 'old phone')).toEqual({ 'Manifest.db': 6, 'ab/abc': 7 })
    for (const path of ['../escape', '/etc/passwd', 'a/../../b', 'a\\..\\b', ''])
      await expect(bringFile(bench.jobId, 'old phone', path, body('x'))).rejects.toThrow('outside')
    expect(broughtFolder(bench.jobId, '../../etc')).toContain(`job-${bench.jobId}`)
    expect(broughtFolder(bench.jobId, '..')).not.toMatch(/\.\.$/)
  })
})
