import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import { dayIn } from '@lumbrin/core/io/time-zone'
import type { FindingFilter } from '../domain/filter.js'
import type { TimeBin, Timeline } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { localTime } from './local-time.js'
import { filtered } from './queries.js'

const MOST_BINS = 120

/** The findings of a filter over time, in at most some hundred bins of equal length. */
export async function timeline(db: Db, jobId: JobId, filter: FindingFilter): Promise<Timeline> {
  const all = { ...filter, fromDay: null, toDay: null, standings: [] }
  // Each of the three is a look into the index; together they would be a walk over all of it.
  const [span, nameless]: [{ first: Date | null; last: Date | null }, { count: unknown } | undefined] =
    await Promise.all([
      filtered(db, jobId, all)
        .select(db.raw('MIN(happened_at) AS `first`'), db.raw('MAX(happened_at) AS `last`'))
        .first(),
      filtered(db, jobId, all).whereNull('happened_at').count({ count: '*' }).first(),
    ])
  const undated = Number(nameless?.count ?? 0)
  if (!span?.first || !span.last) return { days: 1, bins: [], undated }
  const dayNumber = (at: Date) => Date.parse(dayIn(at, filter.zone)) / DAY_MS
  const first = dayNumber(span.first)
  const length = dayNumber(span.last) - first + 1
  const days = Math.max(1, Math.ceil(length / MOST_BINS))
  const day = localTime(db, 'findings.happened_at', filter.zone)
  const rows: { bin: number; standing: Standing; count: number }[] = await filtered(db, jobId, all)
    .whereNotNull('happened_at')
    .groupBy('bin', 'standing')
    .select(db.raw('FLOOR((TO_DAYS(?) - 719528 - ?) / ?) AS bin', [day, first, days]), 'standing')
    .count({ count: '*' })
  const bins: TimeBin[] = Array.from({ length: Math.ceil(length / days) }, (_, i) => ({
    from: new Date((first + i * days) * DAY_MS).toISOString().slice(0, 10),
    counts: {},
  }))
  for (const { bin, standing, count } of rows)
    if (STANDINGS.includes(standing) && bins[Number(bin)])
      (bins[Number(bin)] as TimeBin).counts[standing] = Number(count)
  return { days, bins, undated }
}
