import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Condition, Sighting } from '@lumbrin/core/categories/types'
import { describe, expect, inject, it } from 'vitest'
import { asId } from '../../apps/workbench/src/database/json.js'
import { listSources } from '../../apps/workbench/src/database/sources.js'
import { restandCategory } from '../../apps/workbench/src/database/standings.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { Difference } from '../../apps/workbench/src/domain/difference.js'
import type { JobId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { restoreCost } from '../../apps/workbench/src/services/differences.js'
import { explainFinding } from '../../apps/workbench/src/services/findings.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { previewRemoval, removeLeftOver, removeSource } from '../../apps/workbench/src/services/removing.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource, readMade } from '../setup/made-source.js'
import { claimsIn, workbenchWith } from './workbench.js'

/** States of one device. The third is a plain backup of a system that keeps calls in encrypted ones only. */
const DATES = ['2026-01-01', '2026-03-01', '2026-06-01', '2026-08-01', '2026-11-01']
const PLAIN = 2

/**
 * What the five sources show of an item, oldest first: `L` live, `E` live and edited since, `B` in the bin, `R` rebuilt,
 * `P` in part, `.` not at all; and, written by hand, what must come of it: standing, number of sightings, the source from
 * which on it was gone with the last one that had it (`4>5`; `-`: neither), and the source of the best copy.
 */
const ITEMS: [category: CategoryId, name: string, shown: string, standing: string, window: string, best: number][] = [
  ['messages', 'always there', 'LLLLL', 'kept', '-', 5],
  ['messages', 'came last', '....L', 'kept', '-', 5],
  ['messages', 'came in summer', '..LLL', 'kept', '-', 5],
  ['messages', 'went and came back', 'L.L.L', 'kept', '-', 5],
  ['messages', 'edited once', 'LLLEE', 'kept', '-', 5],
  ['messages', 'kept, with a leftover of an older version', 'LL.RL', 'kept', '-', 5],
  ['messages', 'only in the oldest', 'L....', 'earlier', '1>2', 1],
  ['messages', 'gone by spring', 'LL...', 'earlier', '2>3', 2],
  ['messages', 'gone by summer', 'LLL..', 'earlier', '3>4', 3],
  ['messages', 'gone by autumn', 'LLLL.', 'earlier', '4>5', 4],
  ['messages', 'gone, with leftovers later', 'LLRRR', 'earlier', '2>3', 2],
  ['messages', 'gone, with a part later', '.LLPP', 'earlier', '3>4', 3],
  ['messages', 'edited, then gone', 'LEE..', 'earlier', '3>4', 3],
  ['messages', 'in the bin now', 'LLLLB', 'binned', '4>5', 5],
  ['messages', 'in the bin for long', 'LLBBB', 'binned', '2>3', 5],
  ['messages', 'in the bin, never seen live', '....B', 'binned', '->5', 5],
  ['messages', 'in the bin once, then gone', 'LLBB.', 'earlier', '2>3', 4],
  ['messages', 'only ever in an older bin', '...B.', 'earlier', '->4', 4],
  ['messages', 'out of the bin again', 'LLBLL', 'kept', '-', 5],
  ['messages', 'rebuilt in the newest', '....R', 'rebuilt', '->5', 5],
  ['messages', 'rebuilt in several', '..RRR', 'rebuilt', '->3', 5],
  ['messages', 'rebuilt in an older one', '.R...', 'rebuilt', '->2', 2],
  ['messages', 'whole once, in part later', '..RP.', 'rebuilt', '->3', 3],
  ['messages', 'in part only', '....P', 'partial', '->5', 5],
  ['messages', 'in part in two', 'P...P', 'partial', '->1', 5],
  ['notes', 'a note that stays', 'LLLLL', 'kept', '-', 5],
  ['notes', 'a note gone by autumn', 'LLLL.', 'earlier', '4>5', 4],
  ['notes', 'a note in the bin', 'LLLLB', 'binned', '4>5', 5],
  ['notes', 'a note rebuilt', '...RR', 'rebuilt', '->4', 5],
  ['notes', 'a note edited twice', 'LELEL', 'kept', '-', 5],
  ['photos', 'a picture that stays', 'LLLLL', 'kept', '-', 5],
  ['photos', 'a picture gone by summer', 'LLL..', 'earlier', '3>4', 3],
  ['photos', 'a picture in the bin', '...LB', 'binned', '4>5', 5],
  ['photos', 'a picture of which its data is left', '....P', 'partial', '->5', 5],
  // The plain backup holds no calls: its silence says nothing.
  ['calls', 'a call that stays', 'LL.LL', 'kept', '-', 5],
  ['calls', 'a call gone by summer', 'LL...', 'earlier', '2>4', 2],
  ['calls', 'a call gone by spring', 'L....', 'earlier', '1>2', 1],
  ['calls', 'a call rebuilt', '....R', 'rebuilt', '->5', 5],
  ['contacts', 'a person that stays', 'LLLLL', 'kept', '-', 5],
  ['contacts', 'a person gone by autumn', '...L.', 'earlier', '4>5', 4],
]

/** A restore of the fourth state onto the device as in the fifth: written by hand from the table above. */
const COSTS: Record<string, Partial<Difference>> = {
  calls: { onlyFirst: 0, onlySecond: 0, both: 1, changed: 0 },
  contacts: { onlyFirst: 1, onlySecond: 0, both: 1, changed: 0 },
  messages: { onlyFirst: 2, onlySecond: 3, both: 4, changed: 0 },
  notes: { onlyFirst: 2, onlySecond: 0, both: 2, changed: 1 },
  photos: { onlyFirst: 1, onlySecond: 0, both: 1, changed: 0 },
}

const CONDITIONS: Record<string, Condition> = { L: 'live', E: 'live', B: 'binned', R: 'rebuilt', P: 'partial' }

function sighting(category: CategoryId, name: string, letter: string): Sighting {
  const n = ITEMS.findIndex((item) => item[1] === name)
  const when = new Date(Date.UTC(2025, 0, 1 + n, 12)).toISOString()
  const id = `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`
  return {
    category,
    condition: CONDITIONS[letter] as Condition,
    when,
    title: name,
    text: letter === 'E' ? `${name}, edited` : name,
    fields: { guid: id, uuid: id, fileName: `${n}.JPG`, address: '+12025550100', startedAt: when, durationSeconds: n },
    content: null,
    origin: { domain: 'd', path: 'p', table: 't', rowid: n, place: 'live', page: null, offset: n },
    missing: [],
    confidence: 1,
  }
}

describe('forty items over five sources', () => {
  let bench: Awaited<ReturnType<typeof workbenchWith>>
  let ids: SourceId[]
  it('stand as worked out by hand, with their windows, best copies and costs', async () => {
    bench = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
    const { db, jobId } = bench
    await db('sources').delete()
    ids = []
    // Read in another order than the one of their dates.
    for (const at of [4, 0, 3, 1, 2]) ids[at] = await readOne(at)
    expect(await db('findings').count({ count: '*' })).toMatchObject([{ count: ITEMS.length }])
    for (const [category, name, shown, standing, window, best] of ITEMS) {
      const row = await db('findings').where({ category, title: name }).first('id')
      const finding = await explainFinding(db, asId(row?.id))
      const bestSource = finding.sightings.find((one) => one.id === finding.bestSightingId)?.sourceId
      expect({
        name,
        standing: finding.standing,
        sightings: finding.sightings.length,
        window: wordsOf(finding.window),
        best: bestSource === undefined ? 0 : ids.indexOf(bestSource) + 1,
      }).toEqual({ name, standing, sightings: shown.replaceAll('.', '').length, window, best })
    }
    const { lines: differences, notCompared } = await restoreCost(db, jobId, ids[3] as SourceId, ids[4] as SourceId)
    for (const difference of differences) expect(difference).toMatchObject(COSTS[difference.category] ?? {})
    expect(differences.map((one) => one.category).sort()).toEqual(Object.keys(COSTS))
    expect(notCompared.map((one) => one.category)).toContain('web-history')
    // The third state holds no calls: what a restore of it does to them is not known.
    const plain = await restoreCost(db, jobId, ids[PLAIN] as SourceId, ids[4] as SourceId)
    expect(plain.lines.map((one) => one.category)).not.toContain('calls')
    expect(plain.notCompared.find((one) => one.category === 'calls')?.why).toContain('only backups with a password')

    // Read once more, nothing changes.
    const before = await db('findings').orderBy('id').select('identity', 'standing', 'sighting_count', 'title')
    for (const category of new Set(ITEMS.map(([id]) => id))) await restandCategory(db, jobId, category)
    expect(await db('findings').orderBy('id').select('identity', 'standing', 'sighting_count', 'title')).toEqual(before)
  })

  it('stand the same where all five are read at once', async () => {
    const { db } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
    const readAll = async (read: (jobId: JobId) => Promise<unknown>) => {
      const { id } = await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
      await read(id)
      return claimsIn({ db, jobId: id })
    }
    const one = await readAll(async (jobId) => {
      for (const at of DATES.keys()) await readOne(at, { db, jobId })
    })
    for (let round = 0; round < 5; round++)
      expect(await readAll((jobId) => Promise.all([...DATES.keys()].map((at) => readOne(at, { db, jobId }))))).toEqual(
        one,
      )
  })

  it('a source that is taken out is as if it had never been added', async () => {
    const { db } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
    const jobWith = async (states: readonly number[]) => {
      const { id: jobId } = await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
      const made = new Map<number, SourceId>()
      for (const at of states) made.set(at, await readOne(at, { db, jobId }))
      await db('reads').where({ job_id: jobId }).update({ state: 'done' })
      return { jobId, made }
    }
    const all = DATES.map((_, at) => at)
    for (const gone of all) {
      const { jobId, made } = await jobWith(all)
      const [first] = await db('findings').where({ job_id: jobId }).orderBy('id').pluck('id')
      await addToTray(db, jobId, [Number(first)])
      const id = made.get(gone) as SourceId
      const { findings } = await previewRemoval(db, id)
      await db('reads').where({ source_id: id }).limit(1).update({ state: 'running' })
      await expect(removeSource(db, id)).rejects.toMatchObject({ code: 'conflict' })
      await db('reads').where({ source_id: id }).update({ state: 'done' })
      await removeSource(db, id)
      expect((await listSources(db, jobId)).map((source) => source.id)).not.toContain(id)
      await expect(removeSource(db, id)).rejects.toMatchObject({ code: 'not-found' })
      // What is behind the answer is done by whoever comes first: this, or the next start.
      await removeLeftOver(db)
      const without = await jobWith(all.filter((at) => at !== gone))
      expect(await claimsIn({ db, jobId })).toEqual(await claimsIn({ db, jobId: without.jobId }))
      expect(findings).toBe(
        ITEMS.filter(([, , shown]) => [...shown].every((one, at) => (one !== '.') === (at === gone))).length,
      )
      expect(await db('sources').where({ id }).first()).toBeUndefined()
      expect(await db('sightings').where({ source_id: id }).first()).toBeUndefined()
    }
  })

  async function readOne(at: number, { db, jobId }: Pick<typeof bench, 'db' | 'jobId'> = bench): Promise<SourceId> {
    const takenAt = new Date(DATES[at] as string)
    const source = await insertMadeSource(db, jobId, `/made/${at}`, takenAt, at !== PLAIN)
    const { id } = source
    const categories = [...new Set(ITEMS.map(([category]) => category))]
    for (const category of categories) {
      const shown = ITEMS.filter((item) => item[0] === category && item[2][at] !== '.').map((item) =>
        sighting(category, item[1], item[2][at] as string),
      )
      const store = category === 'calls' && at === PLAIN ? 'absent' : 'whole'
      await readMade(db, source, { category, pass: 'live' }, shown, store)
    }
    return id
  }
})

function wordsOf(window: { from: number | null; to: number | null } | null): string {
  if (!window) return '-'
  const number = (at: number | null) =>
    at === null ? '-' : String(DATES.findIndex((date) => Date.parse(date) === at) + 1)
  return `${number(window.from)}>${number(window.to)}`
}
