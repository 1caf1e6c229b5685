import { setTimeout as sleep } from 'node:timers/promises'
import { Random } from '@lumbrin/standins/random'
import { describe, expect, inject, it } from 'vitest'
import { type Db, transact } from '../../apps/workbench/src/database/connection.js'
import { listJobs } from '../../apps/workbench/src/database/jobs.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { inheritTray } from '../../apps/workbench/src/database/merging.js'
import * as blocks from '../../apps/workbench/src/database/migrations/2026-11-27-tray-blocks.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { allOf, findFinding } from '../../apps/workbench/src/database/queries.js'
import { categoriesWithin } from '../../apps/workbench/src/database/shared.js'
import {
  addMatching,
  addToTray,
  removeCategory,
  removeFromTray,
  removeMatching,
  summariseTray,
  undoChange,
} from '../../apps/workbench/src/database/tray.js'
import { blocksOf, clearBits, findingsInTray } from '../../apps/workbench/src/database/tray-blocks.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { FindingId, JobId } from '../../apps/workbench/src/domain/ids.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource } from '../setup/made-source.js'
import { workbenchWith } from './workbench.js'

const CATEGORIES = ['messages', 'notes', 'calls'] as const
const STANDINGS = ['kept', 'earlier', 'rebuilt'] as const

interface Made {
  id: FindingId
  job: JobId
  category: (typeof CATEGORIES)[number]
  standing: (typeof STANDINGS)[number]
  bytes: number
}

/** Findings of two jobs in turn, so that neighbours by their ids are of both. */
async function twoJobs() {
  const bench = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  const other = await openJob(bench.db, briefSchema.parse({ owner: 'Another owner' }))
  const made: Made[] = []
  const random = new Random(5)
  for (let i = 0; i < 400; i++) {
    const one = {
      job: random.chance(0.7) ? bench.jobId : other.id,
      category: random.pick(CATEGORIES),
      standing: random.pick(STANDINGS),
      bytes: i,
    }
    made.push({ ...one, id: 0 as FindingId })
  }
  await bench.db('findings').insert(
    made.map(({ job, category, standing, bytes }, i) => ({
      job_id: job,
      category,
      standing,
      bytes,
      identity: `${i}`,
      title: `Finding ${i}`,
    })),
  )
  const ids: number[] = await bench.db('findings').orderBy('id').pluck('id')
  for (const [i, one] of made.entries()) one.id = asId(ids[i])
  const { id: source } = await insertMadeSource(bench.db, bench.jobId, '/made', new Date())
  await bench.db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, title, fields, origin, missing, confidence)
     SELECT id, ?, job_id, category, 'live', id, 'live', title, '{}', '{}', '[]', 1 FROM findings`,
    [source],
  )
  await bench.db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
  return { db: bench.db, job: bench.jobId, other: other.id, made }
}

const chosen = async (db: Db, job: JobId): Promise<FindingId[]> =>
  (await findingsInTray(db, job).orderBy('findings.id').pluck('findings.id')).map(asId<FindingId>)

const ascending = (ids: Iterable<number>) => [...ids].sort((a, b) => a - b)

describe('the tray, held against a plain set', () => {
  it('holds what was chosen and not taken out, of both jobs', async () => {
    const { db, job, other, made } = await twoJobs()
    const random = new Random(11)
    const sets = new Map([job, other].map((id) => [id, new Set<number>()]))
    for (let step = 0; step < 60; step++) {
      const at = random.chance(0.6) ? job : other
      const set = sets.get(at) as Set<number>
      const mine = made.filter((one) => one.job === at)
      const category = random.pick(CATEGORIES)
      const some = made.filter(() => random.chance(0.1)).map((one) => one.id)
      const kind = random.int(0, 4)
      if (kind === 0) {
        await addToTray(db, at, some)
        for (const one of mine) if (some.includes(one.id)) set.add(one.id)
      } else if (kind === 1) {
        const { count, step: taken } = await removeFromTray(db, at, some)
        expect(count).toBe(some.filter((id) => set.has(id)).length)
        if (random.chance(0.4)) await undoChange(db, at, taken)
        else for (const id of some) set.delete(id)
      } else if (kind === 2) {
        if (random.chance(0.5)) await removeCategory(db, at, category)
        else await removeMatching(db, at, allOf(category))
        for (const one of mine) if (one.category === category) set.delete(one.id)
      } else {
        const standing = random.pick(STANDINGS)
        const fresh = mine.filter((one) => one.category === category && one.standing === standing && !set.has(one.id))
        const added = await addMatching(db, at, { ...allOf(category), standings: [standing] })
        expect(added.count).toBe(fresh.length)
        if (kind === 3) await undoChange(db, at, added.step)
        else for (const one of fresh) set.add(one.id)
      }
      expect(await chosen(db, at)).toEqual(ascending(set))
    }
    for (const [at, set] of sets) {
      expect(await chosen(db, at)).toEqual(ascending(set))
      expect((await listJobs(db)).find((one) => one.id === at)?.tray).toBe(set.size)
      const lines = await summariseTray(db, at)
      for (const { category, standing, count, bytes } of lines) {
        const those = made.filter((one) => set.has(one.id) && one.category === category && one.standing === standing)
        expect({ count, bytes }).toEqual({
          count: those.length,
          bytes: those.reduce((sum, one) => sum + one.bytes, 0),
        })
      }
      expect(lines.reduce((sum, line) => sum + line.count, 0)).toBe(set.size)
      const categories = made.filter((one) => set.has(one.id)).map((one) => one.category)
      expect((await categoriesWithin(db, at, 'tray')).sort()).toEqual([...new Set(categories)].sort())
    }
    const page = await pageOfFindings(db, job, allOf('notes'), null)
    expect(page.length).toBeGreaterThan(50)
    for (const line of page) expect(line.inTray).toBe(sets.get(job)?.has(line.id))
    for (const { id, job: of } of made.slice(0, 20))
      expect((await findFinding(db, id))?.inTray).toBe(sets.get(of)?.has(id))
  })

  it('keeps what several choose at the same time', async () => {
    const { db, job, made } = await twoJobs()
    const mine = made.filter((one) => one.job === job)
    await Promise.all([
      ...mine.filter((one) => one.category === 'notes').map((one) => addToTray(db, job, [one.id])),
      addMatching(db, job, allOf('messages')),
      addMatching(db, job, allOf('calls')),
    ])
    expect(await chosen(db, job)).toEqual(mine.map((one) => one.id))
  })

  it('is changed by both of two that wait for each other', async () => {
    const { db, job, made } = await twoJobs()
    const mine = made.filter((one) => one.job === job).map((one) => one.id)
    const [low, high] = [mine[0], mine.at(-1)] as [number, number]
    await addToTray(db, job, mine)
    let meeting = 0
    // Each holds its first block until the other has one as well.
    const change = (first: number, second: number) =>
      transact(db, async (trx) => {
        await clearBits(trx, job, blocksOf(trx, trx('findings').where('findings.id', first)))
        for (meeting++; meeting < 2; ) await sleep(5)
        await clearBits(trx, job, blocksOf(trx, trx('findings').where('findings.id', second)))
      })
    await Promise.all([change(low, high), change(high, low)])
    expect(meeting).toBeGreaterThan(2)
    expect(await chosen(db, job)).toEqual(mine.slice(1, -1))
  })

  it('takes out together only what was put in together', async () => {
    const { db, job, made } = await twoJobs()
    const notes = made.filter((one) => one.job === job && one.category === 'notes').map((one) => one.id)
    await addToTray(db, job, notes.slice(0, 5))
    const first = await addMatching(db, job, allOf('notes'))
    expect(first.count).toBe(notes.length - 5)
    expect((await addMatching(db, job, allOf('notes'))).count).toBe(0)
    await removeFromTray(db, job, notes.slice(-3))
    await undoChange(db, job, first.step)
    expect(await chosen(db, job)).toEqual(notes.slice(0, 5))
    await undoChange(db, job, first.step)
    expect(await chosen(db, job)).toEqual(notes.slice(0, 5))
  })

  it('is undone for the job that it was made for, and for no other', async () => {
    const { db, job, other, made } = await twoJobs()
    const theirs = made.filter((one) => one.job === other).map((one) => one.id)
    const { step } = await addToTray(db, other, theirs)
    await undoChange(db, job, step)
    await undoChange(db, job, '00000000-0000-4000-8000-000000000000')
    expect(await chosen(db, other)).toEqual(theirs)
  })

  it('goes with a finding that becomes part of another', async () => {
    const { db, job, made } = await twoJobs()
    const [a, b, c] = made.filter((one) => one.job === job).map((one) => one.id) as [FindingId, FindingId, FindingId]
    await addToTray(db, job, [a])
    await inheritTray(db, job, a, c)
    await inheritTray(db, job, b, b)
    expect(await chosen(db, job)).toEqual([a, c])
  })

  it('is the same after the change of how it is kept, forth and back', async () => {
    const { db, job, other, made } = await twoJobs()
    await blocks.down(db)
    const random = new Random(3)
    const rows = made.filter(() => random.chance(0.3)).map((one) => ({ job_id: one.job, finding_id: one.id }))
    await db('tray').insert(rows)
    await blocks.up(db)
    const of = (id: number) => rows.filter((row) => row.job_id === id).map((row) => row.finding_id)
    expect([await chosen(db, job), await chosen(db, other)]).toEqual([of(job), of(other)])
    await blocks.down(db)
    const back = await db('tray').orderBy('finding_id').select('job_id', 'finding_id')
    expect(back.map((row) => ({ ...row, finding_id: Number(row.finding_id) }))).toEqual(rows)
    await blocks.up(db)
  })
})
