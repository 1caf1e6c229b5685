import {
  closeSync,
  cpSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  truncateSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { fileIdOf } from '@lumbrin/core/backup/manifest-values'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { isClosed } from '@lumbrin/core/categories/step-account'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import type { FindingId, ReadId } from '../../apps/workbench/src/domain/ids.js'
import { openFindingContent } from '../../apps/workbench/src/services/content.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { tryContentAgain } from '../../apps/workbench/src/services/trying-again.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

// docs/truth.md, rules 11 and 12.

const demo = demoBackup(inject('demoFolder')).folder
const MESSAGES = fileIdOf('HomeDomain', 'Library/SMS/sms.db')

/** A job whose source is a copy of the demo's backup, which the test may damage. */
async function benchWithCopy() {
  const copy = join(scratchFolder(), 'copy')
  cpSync(demo, copy, { recursive: true, preserveTimestamps: true })
  const bench = await workbenchWith(inject('databaseUrl'), demo)
  const source = await addSource(bench.db, bench.jobId, copy)
  const read = async (categories: CategoryId[], again = false) => {
    const id = await startRead(bench.db, source, { categories, passes: ['live', 'residue'], again })
    expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    return findRead(bench.db, id)
  }
  const counts = async () => ({
    findings: Number((await bench.db('findings').count({ count: '*' }))[0]?.count),
    sightings: Number((await bench.db('sightings').count({ count: '*' }))[0]?.count),
  })
  /** Places of content files, by the names that they have in the backup. */
  const place = (id: string) => join(copy, id.slice(0, 2), id)
  return { ...bench, source, copy, read, counts, place }
}

/** The ids of pictures whose content a backup has. */
function pictures(copy: string): string[] {
  const ids = readdirSync(demo, { recursive: true, encoding: 'utf8' })
    .filter((name) => /\/[0-9a-f]{40}$/.test(name))
    .map((name) => name.slice(-40))
  return ids.filter((id) => isJpeg(join(copy, id.slice(0, 2), id)))
}

const isJpeg = (path: string): boolean => {
  const file = openSync(path, 'r')
  const head = Buffer.alloc(3)
  readSync(file, head, 0, 3, 0)
  closeSync(file)
  return head.equals(Buffer.from([0xff, 0xd8, 0xff]))
}

describe('a read that could not have everything', () => {
  it('says how many contents are missing, and has them when it is tried again', async () => {
    const { db, jobId, read, counts, place, copy } = await benchWithCopy()
    const gone = pictures(copy).slice(0, 12).map(place)
    for (const path of gone) renameSync(path, `${path}.away`)
    const first = await read(['photos'])
    expect(first?.state).toBe('gaps')
    const live = first?.steps.find(({ pass }) => pass === 'live')
    expect(live?.account && isClosed(live.account)).toBe(false)
    const missing = await db('findings')
      .where({ job_id: jobId })
      .whereIn('content_state', ['lost', 'gone', 'unreadable'])
    expect(missing.length).toBeGreaterThan(0)
    const before = await counts()
    for (const path of gone) renameSync(`${path}.away`, path)
    expect((await read(['photos'], true))?.state).toBe('done')
    expect(await counts(), 'nothing is stored twice').toEqual(before)
    for (const { id } of missing) {
      const content = await openFindingContent(db, asId(id))
      expect(content?.source.size).toBeGreaterThan(0)
      await content?.source.close()
    }
  })

  it('has a single content again once it is back', async () => {
    const { db, jobId, read, place, copy } = await benchWithCopy()
    const gone = pictures(copy).slice(0, 12).map(place)
    for (const path of gone) renameSync(path, `${path}.away`)
    await read(['photos'])
    const missing = (
      await db('findings').where({ job_id: jobId }).whereIn('content_state', ['lost', 'gone', 'unreadable']).pluck('id')
    ).map(asId<FindingId>)
    const [one] = missing as [FindingId]
    expect(await tryContentAgain(db, one)).toEqual({ had: 0, reads: [] })
    for (const path of gone) renameSync(`${path}.away`, path)
    const { reads } = await tryContentAgain(db, one)
    expect(reads, 'what the item did not learn of its content is read again').toHaveLength(1)
    await claimWork(db, 'reads', 'test:1')
    await runRead(db, reads[0] as ReadId, new AbortController().signal)
    for (const id of missing) {
      expect(await db('findings').where({ id }).first('content_state')).toEqual({ content_state: 'present' })
      const { source } = await openFindingContent(db, id)
      expect(source.size).toBeGreaterThan(0)
      await source.close()
    }
  })

  it('takes the silence of a damaged store for nothing, until it was read whole', async () => {
    const { db, jobId, sourceId, read, place, counts } = await benchWithCopy()
    // The same state from an undamaged copy: all of it is kept.
    const whole = await startRead(db, sourceId, { categories: ['messages'], passes: ['live'] })
    await claimWork(db, 'reads', 'test:1')
    await runRead(db, whole, new AbortController().signal)
    const kept = async () =>
      Number((await db('findings').where({ job_id: jobId, standing: 'kept' }).count({ count: '*' }))[0]?.count)
    const all = await kept()
    expect(all).toBeGreaterThan(100)
    const store = readFileSync(place(MESSAGES))
    truncateSync(place(MESSAGES), Math.floor(store.length / 8192) * 4096)
    const damaged = await read(['messages'])
    expect(damaged?.state).toBe('gaps')
    expect(await kept()).toBe(all)
    const before = await counts()
    writeFileSync(place(MESSAGES), store)
    expect((await read(['messages'], true))?.state).toBe('done')
    expect(await kept()).toBe(all)
    expect((await counts()).findings).toBeLessThanOrEqual(before.findings + all)
    expect((await read(['messages'], true))?.state, 'once more changes nothing').toBe('done')
  })

  it('is never refused since it was read already', async () => {
    const { read, counts } = await benchWithCopy()
    expect((await read(['contacts']))?.state).toBe('done')
    const before = await counts()
    expect((await read(['contacts'], true))?.state).toBe('done')
    expect(await counts()).toEqual(before)
  })
})
