import type { ContentState } from '../categories/content-states.js'
import type { Condition } from '../categories/types.js'
import type { CategoryState, Moment, SeenAs } from './states.js'
import { momentsOf } from './states.js'
import { type LossWindow, lossWindow } from './window.js'

/** How a finding stands, in the order of how good it is. Stored in the database: renaming one needs a migration. */
export const STANDINGS = ['kept', 'binned', 'earlier', 'rebuilt', 'partial', 'elsewhere'] as const
export type Standing = (typeof STANDINGS)[number]

/** Standings of what is gone from the device of the brief, or about to go. */
export const LOST_STANDINGS: readonly Standing[] = ['binned', 'earlier', 'rebuilt', 'partial']

/** What is claimed of an item. */
export interface Claim<Seen extends SeenAs> {
  standing: Standing
  window: LossWindow | undefined
  /** The copy to show and to hand over (rule 10). */
  best: Seen
  /** The sighting in a bin from which its days are counted; undefined: it is in none. */
  binned: Seen | undefined
}

/**
 * What may be claimed of an item from all its sightings, for the device of the brief (rules 7, 8 and 10). `store`: the
 * store that would hold it. The order of sightings and of states plays no part (rule 9).
 */
export function claimOf<Seen extends SeenAs>(
  seen: readonly Seen[],
  states: readonly CategoryState[],
  device: string | null,
  store: string,
): Claim<Seen> {
  const moments = momentsOf(seen, states, device, store)
  const byId = new Map(states.map((state) => [state.sourceId, state]))
  const standing = standingOf(moments, seen, byId, device)
  return {
    standing,
    window: lossWindow(moments),
    best: bestCopy(seen, byId, device),
    binned: standing === 'binned' || standing === 'elsewhere' ? newestBinned(seen, byId, device, standing) : undefined,
  }
}

/** Rule 7. The newest state that says anything of the item, by showing it or by its silence, decides. */
function standingOf(
  moments: readonly Moment[],
  seen: readonly SeenAs[],
  states: ReadonlyMap<number, CategoryState>,
  device: string | null,
): Standing {
  const newest = moments.find(({ live, binned, silent }) => live || binned || silent)
  if (newest?.live) return 'kept'
  if (newest?.binned) return 'binned'
  if (moments.some(({ live, binned }) => live || binned)) return 'earlier'
  const here = seen.filter(({ sourceId }) => states.get(sourceId)?.device === device)
  if (here.length === 0) return 'elsewhere'
  return here.some(({ condition }) => condition === 'rebuilt') ? 'rebuilt' : 'partial'
}

function newestBinned<Seen extends SeenAs>(
  seen: readonly Seen[],
  states: ReadonlyMap<number, CategoryState>,
  device: string | null,
  standing: Standing,
): Seen | undefined {
  const binned = seen.filter(({ condition }) => condition === 'binned')
  const mine = standing === 'binned' ? binned.filter(({ sourceId }) => states.get(sourceId)?.device === device) : binned
  // Of equals that of the source that was added first.
  const rank = (one: Seen) => [dateOf(one, states), -one.sourceId]
  return mine.reduce<Seen | undefined>(
    (best, one) => (best === undefined || isHigher(rank(one), rank(best)) ? one : best),
    undefined,
  )
}

const dateOf = ({ sourceId }: SeenAs, states: ReadonlyMap<number, CategoryState>): number =>
  states.get(sourceId)?.at ?? Number.NEGATIVE_INFINITY

const WHOLE: Record<Condition, number> = { live: 2, binned: 2, rebuilt: 1, partial: 0 }
/** Content that is there, or that an item has none of, before content that may still come, before content that is lost. */
const HAD: Record<ContentState, number> = {
  none: 2,
  present: 2,
  awaited: 1,
  absent: 0,
  lost: 0,
  unreadable: 0,
  locked: 0,
  gone: 0,
}

/** Rule 10: what can be had now before what cannot, whole before partial, the brief's device before others, the newer. */
function bestCopy<Seen extends SeenAs>(
  seen: readonly Seen[],
  states: ReadonlyMap<number, CategoryState>,
  device: string | null,
): Seen {
  const rank = (one: Seen) => [
    HAD[one.content],
    WHOLE[one.condition],
    states.get(one.sourceId)?.device === device ? 1 : 0,
    dateOf(one, states),
    // Of equals that of the source that was added first.
    -one.sourceId,
  ]
  return seen.reduce((best, one) => (isHigher(rank(one), rank(best)) ? one : best))
}

function isHigher(a: readonly number[], b: readonly number[]): boolean {
  for (const [index, value] of a.entries()) {
    const other = b[index] as number
    if (value !== other) return value > other
  }
  return false
}

/** Rule 8: what no state says is gone is not called lost. */
export const isLost = (standing: Standing, window: LossWindow | undefined): boolean =>
  standing === 'binned' || standing === 'earlier' || (LOST_STANDINGS.includes(standing) && window !== undefined)
