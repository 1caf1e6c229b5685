import type { Capture } from './capture.js'
import { holdsContent, isOfAccount, takenAt } from './capture.js'
import { type LifeItem, stateOn } from './life.js'
import { contentPlace } from './stores.js'

/**
 * What may be claimed of an item, worked out from what really happened. It shares no code with the product; the rules are
 * those of docs/truth.md. Of stores that were harmed, and of leftovers, nobody can say beforehand what can be read: for
 * those it goes by what was seen.
 */
export interface Seen {
  capture: Capture
  /** When the state was taken, as the job says. */
  at: number
  condition: 'live' | 'binned' | 'rebuilt' | 'partial'
  present: boolean
}

export interface Expected {
  standing: string
  from: number | null
  to: number | null
  /** Days of the item's bin begin then; null: it is in none. */
  binnedAt: number | null
  /** Dates of the states from which the best copy may come. */
  best: number
  lost: boolean
}

/** A state as the reads of the job know it. */
export interface KnownState {
  capture: Capture
  at: number
  /** The live pass over the category ended. */
  read: boolean
}

/** True if a capture is of the device that the brief is about, and not of the account. */
const isOfBrief = (capture: Capture): boolean => capture.device === 0 && !isOfAccount(capture)

const HIDES = ['damaged', 'absent', 'missing']

export function expected(item: LifeItem, states: readonly KnownState[], seen: readonly Seen[]): Expected {
  const days = daysOf(item, states, seen)
  const firstThat = (wanted: (day: Day) => boolean) => days.find(wanted)
  const newestFirst = [...days].reverse()
  const deciding = newestFirst.find((day) => day.live || day.binned || day.silent)
  const mine = seen.filter(({ capture }) => isOfBrief(capture))
  let standing: string
  if (deciding?.live) standing = 'kept'
  else if (deciding?.binned) standing = 'binned'
  else if (days.some((day) => day.live || day.binned)) standing = 'earlier'
  else if (mine.some(({ condition }) => condition === 'rebuilt')) standing = 'rebuilt'
  else standing = mine.length > 0 ? 'partial' : 'elsewhere'
  const lastLive = newestFirst.find((day) => day.live)
  const gone = lastLive
    ? firstThat((day) => day.at > lastLive.at && (day.binned || day.silent))
    : firstThat((day) => day.binned || (day.leftover && day.silent))
  const binned = (standing === 'binned' ? mine : standing === 'elsewhere' ? seen : [])
    .filter(({ condition }) => condition === 'binned')
    .sort((a, b) => b.at - a.at)[0]
  return {
    standing,
    from: gone ? (lastLive?.at ?? null) : null,
    to: gone?.at ?? null,
    binnedAt: binned ? binDay(item, binned.capture) : null,
    best: bestOf(item, seen),
    lost:
      standing === 'binned' ||
      standing === 'earlier' ||
      (['rebuilt', 'partial'].includes(standing) && gone !== undefined),
  }
}

interface Day {
  at: number
  live: boolean
  binned: boolean
  leftover: boolean
  silent: boolean
}

/** What the states of the brief's device say of an item, the oldest first; copies of one backup together. */
function daysOf(item: LifeItem, states: readonly KnownState[], seen: readonly Seen[]): Day[] {
  const days = new Map<number, Day>()
  for (const { capture, at, read } of states) {
    if (!isOfBrief(capture)) continue
    const day = days.get(at) ?? { at, live: false, binned: false, leftover: false, silent: false }
    days.set(at, day)
    for (const one of seen.filter((sighting) => sighting.capture === capture)) {
      if (one.condition === 'live') day.live = true
      if (one.condition === 'binned') day.binned = true
      if (one.condition === 'rebuilt' || one.condition === 'partial') day.leftover = true
    }
    const harm = capture.harm.get(item.category)
    const truth = harm === 'empty' ? undefined : stateOn(item, capture.device, capture.day)
    if (read && !HIDES.includes(harm ?? '') && !truth) day.silent = true
  }
  for (const day of days.values()) if (day.live || day.binned) day.silent = false
  return [...days.values()].sort((a, b) => a.at - b.at)
}

function binDay(item: LifeItem, capture: Capture): number | null {
  const day = stateOn(item, capture.device, capture.day)?.binnedDay
  return day == null ? null : takenAt({ day }).getTime() - 20 * 3_600_000
}

function bestOf(item: LifeItem, seen: readonly Seen[]): number {
  const hasContent = contentPlace(item) !== undefined
  const score = ({ capture, condition, present, at }: Seen) =>
    (!hasContent || present ? 1e18 : 0) +
    (condition === 'partial' ? 0 : condition === 'rebuilt' ? 1e16 : 2e16) +
    (isOfBrief(capture) ? 5e15 : 0) +
    at
  return [...seen].sort((a, b) => score(b) - score(a))[0]?.at ?? 0
}

/** What a state must show of an item; undefined where nobody can say beforehand. */
export function mustShow(item: LifeItem, { capture, read }: KnownState): 'live' | 'binned' | 'nothing' | undefined {
  const harm = capture.harm.get(item.category)
  if (!read || HIDES.includes(harm ?? '')) return undefined
  if (harm === 'empty') return 'nothing'
  return stateOn(item, capture.device, capture.day)?.condition ?? 'nothing'
}

/** True where the content of an item can be had from some state that shows it. */
export const canBeHad = (item: LifeItem, states: readonly KnownState[]): boolean =>
  states.some((state) => ['live', 'binned'].includes(mustShow(item, state) ?? '') && holdsContent(state.capture, item))
