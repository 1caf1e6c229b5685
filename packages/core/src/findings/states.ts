import type { ContentState } from '../categories/content-states.js'
import type { Condition } from '../categories/types.js'

/** One state of a device, as far as it speaks for a category: what one source shows, on one date (truth, rule 4). */
export interface CategoryState {
  sourceId: number
  /** Which device it is of. */
  device: string
  /** Milliseconds; null: not known, and older than all that are. */
  at: number | null
  /**
   * The stores of which it is known that they were there and read to their end (rule 6), by the name that items give
   * theirs: its silence about an item of such a store counts. An empty text names a category's only store.
   */
  silent: ReadonlySet<string>
}

/** One sighting of an item, as far as claims depend on it. */
export interface SeenAs {
  sourceId: number
  condition: Condition
  content: ContentState
}

/** What the states of one date say of one item. Copies of one backup are one state, seen twice (rule 5). */
export interface Moment {
  /** `-Infinity`: the date is not known. */
  at: number
  live: boolean
  binned: boolean
  leftover: boolean
  /** None of them shows it, and the silence of one counts. */
  silent: boolean
}

/** The moments of a device, the newest first, that say anything of an item (rules 2, 5 and 6). */
export function momentsOf(
  seen: readonly SeenAs[],
  states: readonly CategoryState[],
  device: string | null,
  store: string,
): Moment[] {
  const moments = new Map<number, Moment>()
  for (const state of states) {
    if (state.device !== device) continue
    const at = state.at ?? Number.NEGATIVE_INFINITY
    const moment = moments.get(at) ?? { at, live: false, binned: false, leftover: false, silent: false }
    moments.set(at, moment)
    if (state.silent.has(store)) moment.silent = true
    for (const { sourceId, condition } of seen) {
      if (sourceId !== state.sourceId) continue
      if (condition === 'live') moment.live = true
      else if (condition === 'binned') moment.binned = true
      else moment.leftover = true
    }
  }
  for (const moment of moments.values()) if (moment.live || moment.binned) moment.silent = false
  return [...moments.values()].sort((a, b) => b.at - a.at)
}
