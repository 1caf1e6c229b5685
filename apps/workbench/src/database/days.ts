import type { FindingFilter } from '../domain/filter.js'
import type { Day } from '../domain/finding.js'
import type { FindingId, JobId } from '../domain/ids.js'
import { inMonth } from './conditions.js'
import type { Db } from './connection.js'
import { asId } from './json.js'
import { localTime } from './local-time.js'
import { filtered, IS_LOST } from './queries.js'

const MOST_TITLES = 3

/** The days of a month (`2026-05`) on which there are findings of a filter. */
export async function daysOfMonth(db: Db, jobId: JobId, filter: FindingFilter, month: string): Promise<Day[]> {
  const local = localTime(db, 'findings.happened_at', filter.zone)
  const counted: { day: string; total: number; lost: number }[] = await filtered(db, jobId, {
    ...filter,
    fromDay: null,
    toDay: null,
  })
    .modify(inMonth, month, filter.zone)
    .groupBy('day')
    .select(db.raw("DATE_FORMAT(?, '%Y-%m-%d') AS day", [local]))
    .count({ total: '*' })
    .sum({ lost: db.raw(IS_LOST) })
    .orderBy('day')
  const firsts = await firstOfDays(
    db,
    jobId,
    filter,
    counted.map(({ day }) => day),
  )
  return counted.map(({ day, total, lost }) => ({
    day,
    total: Number(total),
    lost: Number(lost),
    first: firsts.get(day) ?? [],
  }))
}

/**
 * The first findings of each of these days, in order: a few steps in an index for each, however many the day has. A search
 * for words is made once for all of them instead.
 */
async function firstOfDays(db: Db, jobId: JobId, filter: FindingFilter, days: readonly string[]) {
  const firsts = new Map<string, Day['first']>()
  const [first, last] = [days[0], days.at(-1)]
  if (first === undefined || last === undefined) return firsts
  const local = localTime(db, 'findings.happened_at', filter.zone)
  const ofDay = (day: string) =>
    filtered(db, jobId, { ...filter, fromDay: day, toDay: day })
      .select(db.raw('? AS day', [day]), 'findings.id', 'findings.title', 'findings.standing')
      .orderBy(['findings.happened_at', 'findings.id'])
      .limit(MOST_TITLES)
  const ofAll = filtered(db, jobId, { ...filter, fromDay: first, toDay: last }).select(
    'findings.id',
    'findings.title',
    'findings.standing',
    db.raw("DATE_FORMAT(?, '%Y-%m-%d') AS day", [local]),
    db.raw('ROW_NUMBER() OVER (PARTITION BY DATE(?) ORDER BY findings.happened_at, findings.id) AS place', [local]),
  )
  const rows = filter.words
    ? await db.from(ofAll.as('days')).where('place', '<=', MOST_TITLES).orderBy(['day', 'place'])
    : await db.unionAll(days.map(ofDay), true)
  for (const row of rows) {
    const known = firsts.get(row.day)
    const finding = { id: asId<FindingId>(row.id), title: row.title, standing: row.standing }
    if (known) known.push(finding)
    else firsts.set(row.day, [finding])
  }
  return firsts
}
