import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { daysOfMonth } from '../../apps/workbench/src/database/days.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { pointsOf } from '../../apps/workbench/src/database/points.js'
import { allOf, countFacets, listConversations } from '../../apps/workbench/src/database/queries.js'
import { deleteView, listViews, saveView } from '../../apps/workbench/src/database/views.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { FindingLine } from '../../apps/workbench/src/domain/finding.js'
import { ORDERS } from '../../apps/workbench/src/domain/findings-query.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { demoBackup } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const ALL = allOf('messages')

describe('looking', () => {
  // Read once for all: none of them changes what was found but the last one.
  let bench: Workbench
  const ends: (() => void | Promise<void>)[] = []
  beforeAll(async () => {
    const { folder } = demoBackup(inject('demoFolder'))
    bench = await workbenchWith(inject('databaseUrl'), folder, (end) => void ends.push(end))
    const id = await bench.startRead()
    await claimWork(bench.db, 'reads', 'test:1')
    await runRead(bench.db, id, new AbortController().signal)
  })
  afterAll(async () => {
    for (const end of ends) await end()
  })

  it('puts them on the days of a month, and in their order', async () => {
    const [row] = await bench.db('findings').where({ category: 'messages' }).max({ last: 'happened_at' })
    const month = new Date(String(row?.last)).toISOString().slice(0, 7)
    const days = await daysOfMonth(bench.db, bench.jobId, ALL, month)
    const counted = await bench
      .db('findings')
      .where({ category: 'messages' })
      .whereRaw("DATE_FORMAT(happened_at, '%Y-%m') = ?", [month])
      .select('standing')
    expect(days.reduce((sum, day) => sum + day.total, 0)).toBe(counted.length)
    expect(days.reduce((sum, day) => sum + day.lost, 0)).toBe(counted.filter((one) => one.standing !== 'kept').length)
    expect(days.map((day) => day.day)).toEqual(days.map((day) => day.day).sort())
    for (const day of days) expect(day.first.length).toBe(Math.min(3, day.total))
    // A search is made in another way, and says the same of the days on which it finds something.
    const texts: (string | null)[] = await bench
      .db('findings')
      .where({ category: 'messages' })
      .whereRaw("DATE_FORMAT(happened_at, '%Y-%m') = ?", [month])
      .whereNotNull('text')
      .pluck('text')
    const word = texts.flatMap((text) => /\b[a-z]{5,}\b/i.exec(text ?? '')?.[0] ?? [])[0]?.toLowerCase() ?? ''
    const found = await daysOfMonth(bench.db, bench.jobId, { ...ALL, words: word }, month)
    expect(found.length).toBeGreaterThan(0)
    for (const day of found) {
      expect(day.first.length).toBe(Math.min(3, day.total))
      const whole = days.find((one) => one.day === day.day)
      expect(whole?.total).toBeGreaterThanOrEqual(day.total)
      const shown = await bench.db('findings').whereIn(
        'id',
        day.first.map(({ id }) => id),
      )
      for (const { title, text } of shown) expect(`${title} ${text}`.toLowerCase()).toContain(word)
    }
  })

  it('shows on a map only what has a place on Earth', async () => {
    const { points, more } = await pointsOf(bench.db, bench.jobId, allOf('photos'))
    const placed = (await bench.db('sightings').where({ category: 'photos', pass: 'live' }).select('fields')).filter(
      ({ fields }) => (typeof fields === 'string' ? JSON.parse(fields) : fields).latitude !== null,
    )
    expect(more).toBe(false)
    expect(points.length).toBeGreaterThan(0)
    expect(points.length).toBeGreaterThanOrEqual(placed.length)
    expect((await pointsOf(bench.db, bench.jobId, ALL)).points).toEqual([])
  })

  it('keeps views by name', async () => {
    const other = await openJob(bench.db, briefSchema.parse({ owner: 'Somebody else' }))
    const save = (address: string) => saveView(bench.db, bench.jobId, { name: 'lost', address })
    expect(await save('?category=notes')).toBe(true)
    expect(await save('?category=photos'), 'one of that name is there, and stays').toBe(false)
    expect(await save('?category=notes'), 'the same once more').toBe(true)
    const views = await listViews(bench.db, bench.jobId)
    expect(views).toMatchObject([{ name: 'lost', address: '?category=notes' }])
    expect(await listViews(bench.db, other.id)).toEqual([])
    await deleteView(bench.db, other.id, views[0]?.id ?? 0)
    expect(await listViews(bench.db, bench.jobId)).toHaveLength(1)
    await deleteView(bench.db, bench.jobId, views[0]?.id ?? 0)
    expect(await listViews(bench.db, bench.jobId)).toEqual([])
  })

  it('finds words of any script, and survives what is no word', async () => {
    const found = async (words: string) =>
      (await pageOfFindings(bench.db, bench.jobId, { ...ALL, words }, null)).map((line) => line.text)
    for (const word of ['Vorhang', 'hing', '提灯', 'הבובה', 'جاهز', '🙈', 'at nine', 'the']) {
      const texts = await found(word)
      expect(texts.length, word).toBeGreaterThan(0)
      for (const part of word.split(' '))
        expect(
          texts.every((text) => text?.toLowerCase().includes(part.toLowerCase())),
          word,
        ).toBe(true)
    }
    for (const odd of ['"', '((', '*', '+-', "a@b.c'", '%', '\\', 'C++', '@']) await found(odd)
    expect(await found('%')).toEqual([])
  })

  it('lists conversations with what is lost in them', async () => {
    const conversations = await listConversations(bench.db, bench.jobId, ALL)
    expect(conversations.reduce((sum, line) => sum + line.total, 0)).toBe(
      Object.values((await countFacets(bench.db, bench.jobId)).messages ?? {}).reduce((a, b) => a + b, 0),
    )
    expect(conversations.find((line) => line.title === 'Tour crew')?.total).toBeGreaterThan(0)
  })

  it('pages through every finding exactly once, in order, those without a date too', async () => {
    await bench.db('findings').where('id', '<', 320).update({ happened_at: null })
    for (const order of ORDERS) {
      const seen: FindingLine[] = []
      for (let page = await pageOfFindings(bench.db, bench.jobId, { ...ALL, order }, null); page.length > 0; ) {
        seen.push(...page)
        const last = page.at(-1) as FindingLine
        page = await pageOfFindings(
          bench.db,
          bench.jobId,
          { ...ALL, order },
          { when: last.when, id: last.id, score: last.matchScore, title: last.title, bytes: last.bytes },
        )
      }
      const [row] = await bench.db('findings').where({ category: 'messages' }).count({ count: '*' })
      expect(new Set(seen.map((line) => line.id)).size).toBe(Number(row?.count))
      expect(seen.length).toBe(Number(row?.count))
      if (order === 'match') {
        const scores = seen.map((line) => line.matchScore)
        expect(scores).toEqual([...scores].sort((a, b) => b - a))
        continue
      }
      if (order === 'largest')
        expect(seen.map((line) => line.bytes)).toEqual(seen.map((line) => line.bytes).sort((a, b) => b - a))
      if (order === 'title' || order === 'largest') continue
      const dates = seen.flatMap((line) => line.when ?? [])
      expect(dates).toEqual(order === 'newest' ? [...dates].sort().reverse() : [...dates].sort())
    }
  })
})
