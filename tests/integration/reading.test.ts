import { cpSync, renameSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, inject, it } from 'vitest'
import { claimWork, releaseDead } from '../../apps/workbench/src/database/claims.js'
import { countFacets } from '../../apps/workbench/src/database/queries.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import type { ReadId } from '../../apps/workbench/src/domain/ids.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { resumeRead, stopRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { startReader, type Workbench, workbenchWith } from './workbench.js'

const { folder, truth } = demoBackup(inject('demoFolder'))
const fates = (fate: string) => truth.messages.filter((message) => message.fate === fate).length

async function readAll(bench: Workbench): Promise<ReadId> {
  const id = await bench.startRead()
  expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
  await runRead(bench.db, id, new AbortController().signal)
  return id
}

async function expectWholeResult(bench: Workbench): Promise<void> {
  const facets = await countFacets(bench.db, bench.jobId)
  expect(facets.messages).toMatchObject({ kept: fates('live'), binned: fates('binned') })
  expect(facets.messages?.rebuilt).toBeGreaterThan(0)
  const [sightings] = await bench.db('sightings').count({ count: '*' })
  const [findings] = await bench.db('findings').count({ count: '*' })
  // The demo's items are all different, so one sighting is one finding: no more, no less.
  expect(Number(sightings?.count)).toBe(Number(findings?.count))
  const steps = await bench.db('read_steps').sum({ done: 'done' }).first()
  expect(Number(steps?.done)).toBe(Number(sightings?.count))
}

describe('a read', () => {
  it('puts every sighting into the database and stands each finding right', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await readAll(bench)
    expect(await findRead(bench.db, id)).toMatchObject({
      state: 'done',
      error: null,
      warnings: [{ code: 'only-in-encrypted' }],
    })
    await expectWholeResult(bench)
    await expect(bench.startRead()).rejects.toThrow('read already')
  })

  it('stops when asked, keeps what it has, and goes on to the same end', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    await claimWork(bench.db, 'reads', 'test:1')
    const running = runRead(bench.db, id, new AbortController().signal)
    await stopRead(bench.db, id)
    await running
    expect((await findRead(bench.db, id))?.state).toBe('stopped')
    await expect(bench.startRead()).rejects.toThrow('Let that one go on')
    await resumeRead(bench.db, id)
    await claimWork(bench.db, 'reads', 'test:2')
    await runRead(bench.db, id, new AbortController().signal)
    await expectWholeResult(bench)
  })

  it('loses and doubles nothing when its process is killed again and again', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    let kills = 0
    for (let round = 0; round < 6; round++) {
      const reader = startReader(bench)
      if (await claimedOrDone(bench, id)) {
        // Each time it gets a little further before it is killed.
        await sleep(30 + round * 60)
        kills++
      }
      await reader.kill()
    }
    startReader(bench)
    while (await claimedOrDone(bench, id)) await sleep(50)
    expect(kills).toBeGreaterThan(1)
    await expectWholeResult(bench)
  })

  it('waits for a source that is gone, and goes on by itself when it is back', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    await bench.db('sources').update({ path: '/nowhere/at/all' })
    const id = await readAll(bench)
    expect(await findRead(bench.db, id)).toMatchObject({
      state: 'away',
      waitsFor: expect.stringContaining('/nowhere/at/all'),
    })
    await resumeReturned(bench.db)
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'away' })
    await bench.db('sources').update({ path: folder })
    await resumeReturned(bench.db)
    expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    await expectWholeResult(bench)
  })

  it('that loses its source on the way says nothing of what it did not see', async () => {
    const copy = join(scratchFolder(), 'backup')
    cpSync(folder, copy, { recursive: true })
    const bench = await workbenchWith(inject('databaseUrl'), copy)
    const id = await bench.startRead()
    expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
    const running = runRead(bench.db, id, new AbortController().signal)
    while (((await bench.db('sightings').count({ count: '*' }))[0]?.count ?? 0) === 0) await sleep(5)
    renameSync(copy, `${copy}.away`)
    await running
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'away' })
    const lost = await bench
      .db('sightings')
      .whereIn('content_state', ['lost', 'absent'])
      .first('title', 'content_state')
    expect(lost).toBeUndefined()
    renameSync(`${copy}.away`, copy)
    await resumeReturned(bench.db)
    expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    await expectWholeResult(bench)
  })
})

async function claimedOrDone(bench: Workbench, id: ReadId): Promise<boolean> {
  for (;;) {
    const read = await bench.db('reads').where({ id }).first('state', 'claimed_by', 'error')
    expect(read?.state, read?.error ?? '').not.toBe('failed')
    if (read?.state === 'done') return false
    if (read?.state === 'running' && read.claimed_by) return true
    await sleep(25)
  }
}

describe('claiming work', () => {
  it('never gives the same piece to two workers', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    for (let i = 0; i < 40; i++)
      await bench.db('reads').insert({
        job_id: bench.jobId,
        source_id: bench.sourceId,
        state: 'queued',
        queued_at: new Date(),
        warnings: '[]',
      })
    const worker = async (name: string) => {
      const claimed: ReadId[] = []
      for (
        let id = await claimWork(bench.db, 'reads', name);
        id !== undefined;
        id = await claimWork(bench.db, 'reads', name)
      )
        claimed.push(id)
      return claimed
    }
    const claimed = (await Promise.all(['a:1', 'b:2', 'c:3', 'd:4'].map(worker))).flat()
    expect(claimed.length).toBe(40)
    expect(new Set(claimed).size).toBe(40)
  })

  it('takes over from a worker that has fallen silent, and from no other', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    expect(await claimWork(bench.db, 'reads', 'a:1')).toBe(id)
    expect(await claimWork(bench.db, 'reads', 'b:2')).toBeUndefined()
    await bench.db('reads').update({ heartbeat_at: bench.db.raw('UTC_TIMESTAMP(3) - INTERVAL 60 SECOND') })
    expect(await claimWork(bench.db, 'reads', 'b:2')).toBe(id)
  })
})

describe('what somebody wanted stopped', () => {
  const dead = `${hostname()}:999999`

  it('is stopped, though its reader died before it could', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    expect(await claimWork(bench.db, 'reads', dead)).toBe(id)
    await stopRead(bench.db, id)
    await releaseDead(bench.db, hostname(), () => false)
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'stopping' })
    expect(await claimWork(bench.db, 'reads', 'test:2')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'stopped', error: null })
    // It can be gone on with, and comes to the same end.
    await resumeRead(bench.db, id)
    expect(await claimWork(bench.db, 'reads', 'test:2')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    await expectWholeResult(bench)
  })

  it('is stopped where its reader fell silent on another computer', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    await claimWork(bench.db, 'reads', 'elsewhere:1')
    await stopRead(bench.db, id)
    await bench.db('reads').update({ heartbeat_at: bench.db.raw('UTC_TIMESTAMP(3) - INTERVAL 60 SECOND') })
    expect(await claimWork(bench.db, 'reads', 'test:2')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'stopped' })
  })

  it('is no work of a reader that lives', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    const id = await bench.startRead()
    await claimWork(bench.db, 'reads', `${hostname()}:${process.pid}`)
    await releaseDead(bench.db, hostname(), (pid) => pid === process.pid)
    expect(await findRead(bench.db, id)).toMatchObject({ state: 'running' })
    expect(await claimWork(bench.db, 'reads', 'test:2')).toBeUndefined()
  })
})
