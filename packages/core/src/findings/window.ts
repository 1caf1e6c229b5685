import type { SeenAs } from './standing.js'

/** When an item went: it was still there at `from`, and no more at `to`. Milliseconds; null: not known. */
export interface LossWindow {
  from: number | null
  to: number | null
}

/**
 * The loss window of an item: from the last source that has it live to the first newer one that does not. `sourcesAt`:
 * the dates of all sources that were read for its category. Undefined: it is live in the newest, or was never seen live
 * and no source says before when it went.
 */
export function lossWindow(seen: readonly SeenAs[], sourcesAt: readonly number[]): LossWindow | undefined {
  const live = new Set(
    seen.flatMap((one) => (one.condition === 'live' && one.sourceTakenAt !== null ? [one.sourceTakenAt] : [])),
  )
  const last = live.size > 0 ? Math.max(...live) : null
  const after = sourcesAt.filter((at) => !live.has(at) && (last === null || at > last))
  if (after.length === 0) return undefined
  return { from: last, to: Math.min(...after) }
}

/** True where the two stretches of time share a moment; an open end reaches for ever. */
export function overlaps(a: LossWindow, b: LossWindow): boolean {
  const [from, to] = [Math.max(a.from ?? -Infinity, b.from ?? -Infinity), Math.min(a.to ?? Infinity, b.to ?? Infinity)]
  return from <= to
}
