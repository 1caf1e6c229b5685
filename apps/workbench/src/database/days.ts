import type { Standing } from '@lumbrin/core/findings/standing'
import type { Db } from './connection.js'
import { type FindingFilter, filtered } from './queries.js'

/** A day of a month with what it holds. */
export interface Day {
  day: string
  total: number
  /** Of them: gone from the device. */
  lost: number
  /** The first few, in the order of their times. */
  first: { id: number; title: string; standing: Standing }[]
}

const MOST_TITLES = 3

/** The days of a month (`2026-05`) on which there are findings of a filter. */
export async function daysOfMonth(db: Db, jobId: number, filter: FindingFilter, month: string): Promise<Day[]> {
  const [year = 0, number = 0] = month.split('-').map(Number)
  const inMonth = filtered(db, jobId, { ...filter, fromDay: null, toDay: null })
    .where('findings.happened_at', '>=', new Date(Date.UTC(year, number - 1)))
    .where('findings.happened_at', '<', new Date(Date.UTC(year, number)))
    .select(
      'findings.id',
      'findings.title',
      'findings.standing',
      db.raw("DATE_FORMAT(findings.happened_at, '%Y-%m-%d') AS day"),
      db.raw(
        'ROW_NUMBER() OVER (PARTITION BY DATE(findings.happened_at) ORDER BY findings.happened_at, findings.id) AS place',
      ),
      db.raw('COUNT(*) OVER (PARTITION BY DATE(findings.happened_at)) AS total'),
      db.raw("SUM(findings.standing <> 'kept') OVER (PARTITION BY DATE(findings.happened_at)) AS lost"),
    )
  const rows = await db.from(inMonth.as('days')).where('place', '<=', MOST_TITLES).orderBy(['day', 'place'])
  const days = new Map<string, Day>()
  for (const row of rows) {
    const day: Day = days.get(row.day) ?? { day: row.day, total: Number(row.total), lost: Number(row.lost), first: [] }
    day.first.push({ id: Number(row.id), title: row.title, standing: row.standing })
    days.set(row.day, day)
  }
  return [...days.values()]
}
