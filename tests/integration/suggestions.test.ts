import type { CategoryId } from '@lumbrin/core/categories/registry'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { allOf } from '../../apps/workbench/src/database/queries.js'
import { suggestionsFor } from '../../apps/workbench/src/database/suggestions.js'
import type { ReadId } from '../../apps/workbench/src/domain/ids.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const CATEGORIES: CategoryId[] = ['messages', 'photos', 'contacts', 'notes', 'events']

async function benchThatRead(): Promise<Workbench> {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  await startRead(bench.db, bench.sourceId, { categories: CATEGORIES, passes: ['live', 'residue'] })
  const id = await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, id as ReadId, new AbortController().signal)
  return bench
}

/** How many findings a search has on its first page. */
const found = async ({ db, jobId }: Workbench, category: CategoryId, words: string) =>
  (await pageOfFindings(db, jobId, { ...allOf(category), words }, null)).length

describe('what a search offers', () => {
  it('finds something, each of it, in each category', async () => {
    const bench = await benchThatRead()
    let offered = 0
    for (const category of CATEGORIES) {
      const suggestions = await suggestionsFor(bench.db, bench.jobId, category)
      const searches = [
        ...suggestions.from.map((name) => `from:"${name}"`),
        ...suggestions.in.map((name) => `in:"${name}"`),
        ...suggestions.has.map((having) => `has:${having}`),
        ...suggestions.standing.map((standing) => `standing:${standing}`),
        ...suggestions.years.map((year) => `after:${year}`),
      ]
      for (const words of searches)
        expect(await found(bench, category, words), `${words} in ${category}`).toBeGreaterThan(0)
      offered += searches.length
    }
    expect(offered).toBeGreaterThan(20)
  })

  it('names those standings that there are, and no other', async () => {
    const bench = await benchThatRead()
    for (const category of CATEGORIES) {
      const { standing } = await suggestionsFor(bench.db, bench.jobId, category)
      const there = await bench
        .db('findings')
        .where({ job_id: bench.jobId, category })
        .distinct('standing')
        .pluck('standing')
      expect(standing.filter((one) => one !== 'lost').sort(), category).toEqual(there.sort())
      expect(standing.includes('lost'), category).toBe(there.some((one) => one !== 'kept' && one !== 'elsewhere'))
    }
  })

  it('spans the years in which there is something, the last first', async () => {
    const bench = await benchThatRead()
    const { years } = await suggestionsFor(bench.db, bench.jobId, 'messages')
    const dates: (Date | null)[] = await bench
      .db('findings')
      .where({ job_id: bench.jobId, category: 'messages' })
      .whereNotNull('happened_at')
      .pluck('happened_at')
    const all = dates.map((date) => date?.getUTCFullYear() ?? 0)
    expect(years[0]).toBe(Math.max(...all))
    expect(years.at(-1)).toBe(Math.min(...all))
    for (const year of [years[0], years.at(-1)])
      expect(await found(bench, 'messages', `after:${year} before:${(year as number) + 1}`), `${year}`).toBeGreaterThan(
        0,
      )
  })

  it('names those first whom most of the newest are from, each once', async () => {
    const bench = await benchThatRead()
    const { from } = await suggestionsFor(bench.db, bench.jobId, 'messages')
    expect(new Set(from).size).toBe(from.length)
    const rows: { words: string; count: number }[] = await bench
      .db('findings')
      .join('names', 'names.id', 'findings.person_id')
      .where('findings.job_id', bench.jobId)
      .where('category', 'messages')
      .groupBy('names.id', 'words')
      .count({ count: '*' })
      .select('words')
    const most = rows.sort((a, b) => Number(b.count) - Number(a.count))[0]
    expect(from[0]).toBe(most?.words.split('\n', 1)[0])
  })

  it('is nothing where there is nothing', async () => {
    const bench = await workbenchWith(inject('databaseUrl'), folder)
    expect(await suggestionsFor(bench.db, bench.jobId, 'messages')).toEqual({
      from: [],
      in: [],
      has: [],
      standing: [],
      years: [],
    })
  })
})

describe('a search of the demo', () => {
  it('takes names in any case, in quotes or without, and a minus before them', async () => {
    const bench = await benchThatRead()
    const counted = async (words: string) => (await allPages(bench, words)).size
    const bram = await counted('from:bram')
    expect(bram).toBeGreaterThan(0)
    for (const same of ['from:Bram', 'from:BRAM', 'from:"bram okafor"', 'from:"Bram Okafor"', 'FROM:bram'])
      expect(await counted(same), same).toBe(bram)
    const all = await counted('')
    expect(await counted('-from:bram')).toBe(all - bram)
    const lost = await counted('standing:lost')
    expect(lost).toBeGreaterThan(0)
    expect(await counted('-standing:lost')).toBe(all - lost)
    expect(await counted('before:2100')).toBeGreaterThan(0)
  })
})

/** The ids of all that a search finds, page after page. */
async function allPages({ db, jobId }: Workbench, words: string): Promise<Set<number>> {
  const ids = new Set<number>()
  const filter = { ...allOf('messages'), words }
  for (let page = await pageOfFindings(db, jobId, filter, null); page.length > 0; ) {
    for (const { id } of page) ids.add(id)
    const { id, when, title, bytes } = page.at(-1) as (typeof page)[number]
    page = await pageOfFindings(db, jobId, filter, { id, when, title, bytes, score: 0 })
  }
  return ids
}
