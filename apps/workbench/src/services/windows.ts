import type { CategoryId, Condition } from '@lumbrin/core/categories/types'
import { lossWindow } from '@lumbrin/core/findings/window'
import type { Db } from '../database/connection.js'
import { countingSources } from '../database/standings.js'
import { findingsInTray } from '../database/tray-blocks.js'

/** A loss window that findings of the tray share. Milliseconds; null: open. */
export interface SharedWindow {
  from: number | null
  to: number | null
  count: number
}

// A tray may hold hundreds of thousands; so many tell when things went.
const MOST_FINDINGS = 5000

/** The loss windows of the findings in the tray, the most frequent first. */
export async function trayWindows(db: Db, jobId: number): Promise<SharedWindow[]> {
  const rows: { finding_id: number; category: CategoryId; condition: Condition; taken_at: Date | null }[] = await db(
    'sightings',
  )
    .join('sources', 'sources.id', 'sightings.source_id')
    .whereIn(
      'finding_id',
      db
        .from(findingsInTray(db, jobId).select('findings.id as finding_id').limit(MOST_FINDINGS).as('chosen'))
        .select('finding_id'),
    )
    .select('finding_id', 'category', 'condition', 'taken_at')
  const byFinding = new Map<number, typeof rows>()
  for (const row of rows) {
    const id = Number(row.finding_id)
    const group = byFinding.get(id)
    if (group) group.push(row)
    else byFinding.set(id, [row])
  }
  const dates = new Map<CategoryId, number[]>()
  for (const category of new Set(rows.map((row) => row.category))) {
    const sources = await countingSources(db, jobId, category)
    dates.set(
      category,
      sources.flatMap((source) => (source.counts && source.takenAt !== null ? [source.takenAt] : [])),
    )
  }
  const shared = new Map<string, SharedWindow>()
  for (const group of byFinding.values()) {
    const seen = group.map((row) => ({ condition: row.condition, sourceTakenAt: row.taken_at?.getTime() ?? null }))
    const window = lossWindow(seen, dates.get(group[0]?.category as CategoryId) ?? [])
    if (!window) continue
    const key = `${window.from} ${window.to}`
    shared.set(key, { ...window, count: (shared.get(key)?.count ?? 0) + 1 })
  }
  return [...shared.values()].sort((a, b) => b.count - a.count)
}
