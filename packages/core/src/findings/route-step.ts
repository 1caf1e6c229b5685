import { definitionOf } from '../categories/registry.js'
import { dayIn } from '../io/time-zone.js'
import { BIN_DAYS, DAY_MS } from './bin-days.js'
import type { RouteFacts, RouteSource, RouteStep } from './route-facts.js'

/** One rule: where it speaks, it proposes steps. */
export interface Rule {
  id: string
  steps(facts: RouteFacts): Omit<RouteStep, 'rule'>[]
}

export const step = (
  part: Partial<RouteStep> & Pick<RouteStep, 'do' | 'why' | 'likelihood' | 'cost' | 'action'>,
): Omit<RouteStep, 'rule'> => ({ daysLeft: null, sourceId: null, ...part })

/** A source or a known place by its name and its day in a zone. */
export const named = (
  { timeZone }: Pick<RouteFacts, 'timeZone'>,
  { name, takenAt }: { name: string; takenAt: number | null },
) => `“${name}”${takenAt === null ? '' : ` of ${dayIn(new Date(takenAt), timeZone)}`}`

export const onlyFiles = ({ categories }: RouteFacts) =>
  categories.length > 0 && categories.every((id) => definitionOf(id).nature === 'files')

export const deviceReadable = ({ device }: RouteFacts) => device !== 'erased' && device !== 'not-here'

/** Days since the latest moment at which the loss can have happened; null: the brief names none. */
export const sinceLoss = ({ lost, now }: RouteFacts) =>
  lost?.to == null && lost?.from == null
    ? null
    : Math.max(0, Math.floor((now - (lost.to ?? lost.from ?? now)) / DAY_MS))
/** Days that a bin may still keep what was lost; null: it is too late, or no loss is named. */
export const binDaysLeft = (facts: RouteFacts): number | null => {
  const since = sinceLoss(facts)
  // A bin may be emptied a few days late.
  return since === null || since > BIN_DAYS + 10 ? null : Math.max(0, BIN_DAYS - since)
}

/** How much of what a source lists could not be had, in words. */
export const missed = (gaps: number) => `${gaps === 1 ? 'One thing' : `${gaps} things`} that it lists could not be had`

/** The earliest day on which the brief says that the loss can have been; null: it names none. */
export const firstLoss = ({ lost }: RouteFacts) => lost?.from ?? lost?.to ?? null
/** Of states and places: the newest first, what has no date last. */
export const newestFirst = (a: { takenAt: number | null }, b: { takenAt: number | null }) =>
  (b.takenAt ?? 0) - (a.takenAt ?? 0)

/** True for a state from before the loss; where no loss is named, for any. */
export const isBeforeLoss = (facts: RouteFacts, { takenAt }: { takenAt: number | null }): boolean => {
  const loss = firstLoss(facts)
  return loss === null || (takenAt !== null && takenAt <= loss + DAY_MS)
}
/** True for a state from between the two dates of the loss. */
export const isWithinLoss = (facts: RouteFacts, { takenAt }: { takenAt: number | null }): boolean => {
  const { from, to } = facts.lost ?? { from: null, to: null }
  return from !== null && takenAt !== null && takenAt > from + DAY_MS && takenAt <= (to ?? facts.now)
}

/** Sources that may hold what is sought and are the owner's, the newest first. */
export const usable = ({ sources }: RouteFacts): RouteSource[] =>
  sources.filter(({ canHold, foreign }) => canHold && !foreign).sort(newestFirst)
