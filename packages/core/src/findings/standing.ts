import type { Condition } from '../categories/types.js'

/** How a finding stands, in the order of how good it is. Stored in the database: renaming one needs a migration. */
export const STANDINGS = ['kept', 'binned', 'earlier', 'rebuilt', 'partial'] as const
export type Standing = (typeof STANDINGS)[number]

/** One sighting as far as standing depends on it. */
export interface SeenAs {
  condition: Condition
  /** State of the device that the source shows, in milliseconds; null where unknown. */
  sourceTakenAt: number | null
}

/**
 * The standing of an item from all its sightings. `newestSourceAt` is the date of the newest source of the job
 * that was read for its category: live there is kept, live only in an older one is earlier.
 */
export function standingOf(seen: readonly SeenAs[], newestSourceAt: number | null): Standing {
  const inNewest = (condition: Condition) =>
    seen.some((one) => one.condition === condition && one.sourceTakenAt === newestSourceAt)
  const anywhere = (...conditions: Condition[]) => seen.some((one) => conditions.includes(one.condition))
  if (inNewest('live')) return 'kept'
  if (inNewest('binned')) return 'binned'
  if (anywhere('live', 'binned')) return 'earlier'
  return anywhere('rebuilt') ? 'rebuilt' : 'partial'
}

/** A source as far as it tells what is gone. */
export interface ToldBy {
  takenAt: number | null
  /** It was read for the category, and a source of its kind can hold it. */
  counts: boolean
}

/** The date of the newest source whose silence about an item means that the item is gone; null: there is none. */
export function newestOf(sources: readonly ToldBy[]): number | null {
  const dates = sources.flatMap(({ takenAt, counts }) => (counts && takenAt !== null ? [takenAt] : []))
  return dates.length > 0 ? Math.max(...dates) : null
}

const GOODNESS: Record<Condition, number> = { live: 3, binned: 2, rebuilt: 1, partial: 0 }

/** True if the first is the better copy to show and hand over: more of it is there, then the newer one. */
export function isBetterCopy(a: SeenAs, b: SeenAs): boolean {
  if (a.condition !== b.condition) return GOODNESS[a.condition] > GOODNESS[b.condition]
  return (a.sourceTakenAt ?? 0) > (b.sourceTakenAt ?? 0)
}
