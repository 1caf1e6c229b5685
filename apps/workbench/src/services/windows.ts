import type { Db } from '../database/connection.js'
import { findingsInTray } from '../database/tray-blocks.js'
import type { JobId } from '../domain/ids.js'
import type { SharedWindow } from '../domain/source.js'

const MOST_WINDOWS = 20

/** The loss windows of the findings in the tray, the most frequent first. */
export async function trayWindows(db: Db, jobId: JobId): Promise<SharedWindow[]> {
  const rows: { lost_after: Date | null; lost_before: Date | null; count: number }[] = await findingsInTray(db, jobId)
    .where((known) => known.whereNotNull('lost_after').orWhereNotNull('lost_before'))
    .groupBy('lost_after', 'lost_before')
    .select('lost_after', 'lost_before')
    .count({ count: '*' })
    .orderBy('count', 'desc')
    .limit(MOST_WINDOWS)
  return rows.map(({ lost_after, lost_before, count }) => ({
    from: lost_after?.getTime() ?? null,
    to: lost_before?.getTime() ?? null,
    count: Number(count),
  }))
}
