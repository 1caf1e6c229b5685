import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { parse } from 'csv-parse/sync'
import { expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { daysOfMonth } from '../../apps/workbench/src/database/days.js'
import { findJob, sayDeviceTimeZone } from '../../apps/workbench/src/database/jobs.js'
import { allOf, filtered } from '../../apps/workbench/src/database/queries.js'
import { filesWithin, shelvesWithin } from '../../apps/workbench/src/database/shared.js'
import { timeline } from '../../apps/workbench/src/database/timeline.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover } from '../../apps/workbench/src/services/handovers.js'
import { changeBrief } from '../../apps/workbench/src/services/jobs.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource } from '../setup/made-source.js'
import { type Workbench, workbenchWith, workbenchWithTray } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const HOUR_MS = 3_600_000

/** A finding every seven hours through two years, each with a file. */
async function fill({ db, jobId }: Workbench): Promise<Date[]> {
  const moments = Array.from({ length: 2500 }, (_, i) => new Date(Date.UTC(2025, 0, 1, 0, 30) + i * 7 * HOUR_MS))
  await db('findings').insert(
    moments.map((at, i) => ({
      job_id: jobId,
      category: 'photos',
      identity: String(i),
      standing: 'kept',
      happened_at: at,
      title: `picture ${i}`,
      text: null,
      conversation: '',
      conversation_title: '',
      match_score: 0,
      bytes: 1,
    })) as never,
  )
  const { id: source } = await insertMadeSource(db, jobId, '/made', new Date())
  const content = JSON.stringify({ name: 'a.jpg', bytes: 1, mime: 'image/jpeg', sha256: null, domain: 'd', path: 'a' })
  await db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, title, origin, missing, confidence, fields, content)
     SELECT id, ?, job_id, category, 'live', id, 'live', title, '{}', '[]', 1, '{}', ? FROM findings`,
    [source, content],
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
  return moments
}

const countsBy = <T>(list: readonly T[], of: (one: T) => string) => {
  const counts: Record<string, number> = {}
  for (const one of list) counts[of(one)] = (counts[of(one)] ?? 0) + 1
  return counts
}

it('days and months are those of the zone, in calendars, on the ribbon, in filters and in the network folder', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const moments = await fill(bench)
  const { db, jobId } = bench
  for (const zone of [
    'UTC',
    'Europe/Vienna',
    'America/New_York',
    'Asia/Kathmandu',
    'Australia/Lord_Howe',
    'Asia/Tokyo',
  ]) {
    const filter = { ...allOf('photos'), zone }
    const byDay = countsBy(moments, (at) => dayIn(at, zone))
    const byMonth = countsBy(moments, (at) => dayIn(at, zone).slice(0, 7))
    // Those in which clocks change, and the turn of the year.
    for (const month of ['2025-03', '2025-10', '2025-11', '2025-12', '2026-01', '2026-04']) {
      const days = await daysOfMonth(db, jobId, filter, month)
      const expected = Object.entries(byDay).filter(([day]) => day.startsWith(month))
      expect(days.map(({ day, total }) => [day, total])).toEqual(expected)
      for (const { day, first } of days) expect(first.length).toBe(Math.min(3, byDay[day] ?? 0))
    }
    const { bins, days } = await timeline(db, jobId, filter)
    const binOf = (day: string) => bins.findLastIndex(({ from }) => from <= day)
    const inBins = countsBy(moments, (at) => String(binOf(dayIn(at, zone))))
    expect(days).toBeGreaterThan(1)
    expect(bins.map(({ counts }) => counts.kept ?? 0)).toEqual(bins.map((_, i) => inBins[i] ?? 0))
    for (const [fromDay, toDay] of [
      ['2025-03-30', '2025-03-30'],
      ['2025-10-26', '2025-11-02'],
      ['2025-12-31', '2026-01-01'],
    ] as const) {
      const [row] = await filtered(db, jobId, { ...filter, fromDay, toDay }).count({ count: '*' })
      const between = moments.filter((at) => dayIn(at, zone) >= fromDay && dayIn(at, zone) <= toDay)
      expect(Number(row?.count)).toBe(between.length)
      const [searched] = await filtered(db, jobId, { ...filter, words: `after:${fromDay} before:${toDay}` }).count({
        count: '*',
      })
      expect(Number(searched?.count)).toBe(between.filter((at) => dayIn(at, zone) < toDay).length)
    }
    const within = { jobId, part: 'findings', category: 'photos', zone } as const
    expect((await shelvesWithin(db, within)).sort()).toEqual(Object.keys(byMonth).sort())
    expect((await filesWithin(db, within, '2025-10')).length).toBe(byMonth['2025-10'])
  }
})

it('a job goes by its brief, else by its first device, else by this computer', async () => {
  const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
  const zone = async () => {
    const { timeZone, timeZoneOf } = (await findJob(db, jobId)) ?? {}
    return [timeZone, timeZoneOf]
  }
  expect(await zone()).toEqual(['UTC', 'computer'])
  expect(await sayDeviceTimeZone(db, jobId, 'Europe/Lisbon')).toBe(true)
  expect(await sayDeviceTimeZone(db, jobId, 'Asia/Tokyo')).toBe(false)
  expect(await zone()).toEqual(['Europe/Lisbon', 'device'])
  await changeBrief(db, jobId, briefSchema.parse({ owner: 'Odile Varga', timeZone: 'America/New_York' }))
  expect(await zone()).toEqual(['America/New_York', 'brief'])
  expect(() => briefSchema.parse({ owner: 'Odile Varga', timeZone: 'Europe/Nowhere' })).toThrow('a time zone')
})

it('a package tells the times of the job’s zone, names it, and has UTC beside it', async () => {
  const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
  const zone = 'Asia/Kathmandu'
  await changeBrief(bench.db, bench.jobId, briefSchema.parse({ owner: 'Odile Varga', timeZone: zone }))
  const to = join(bench.root, 'package')
  const id = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to })
  await claimWork(bench.db, 'handovers', 'test:1')
  await runHandover(bench.db, id, new AbortController().signal)
  const data = (name: string) => readFileSync(join(to, 'data', name), 'utf8')
  for (const page of ['report.html', 'provenance.html']) expect(data(page)).toContain(zone)
  const rows = parse(data('index.csv'), { columns: true }) as Record<string, string>[]
  expect(rows.length).toBe(bench.ids.length)
  const dated = rows.filter((row) => row['when (UTC)'] !== '')
  for (const row of dated) {
    expect(row[`when (${zone})`]).toMatch(/\+05:45$/)
    expect(Date.parse(row[`when (${zone})`] ?? '')).toBe(Math.floor(Date.parse(row['when (UTC)'] ?? '') / 1000) * 1000)
  }
  // date(1) says the same of a few.
  for (const row of dated.slice(0, 5)) {
    const said = execFileSync('date', ['-d', row['when (UTC)'] ?? '', '+%Y-%m-%dT%H:%M:%S%:z'], { env: { TZ: zone } })
    expect(row[`when (${zone})`]).toBe(said.toString().trim())
  }
  const pages = readdirSync(join(to, 'data/messages')).filter((name) => name.endsWith('.html'))
  const days = pages.flatMap((name) => [...data(`messages/${name}`).matchAll(/<h2>(\d{4}-\d\d-\d\d)<\/h2>/g)])
  const expected = new Set(dated.map((row) => row[`when (${zone})`]?.slice(0, 10)))
  expect(new Set(days.map(([, day]) => day))).toEqual(expected)
  for (const name of pages) expect(data(`messages/${name}`)).toContain(`Times are those of ${zone}.`)
})
