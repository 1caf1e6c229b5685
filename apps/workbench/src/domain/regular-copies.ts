/** How often a device may be copied: after so many days, and how that is said. */
export const OFTEN: readonly (readonly [days: number, words: string])[] = [
  [1, 'each day'],
  [7, 'each week'],
  [30, 'each month'],
]

export const oftenWords = (everyDays: number): string =>
  OFTEN.find(([days]) => days === everyDays)?.[1] ?? `every ${everyDays} days`

const HOUR_MS = 3_600_000
const DAY_MS = 24 * HOUR_MS
/** Who attaches a device each morning does not do it to the minute. */
const EARLIER_MS = 6 * HOUR_MS
/** A cable that was loose is put right soon; what somebody stopped is left alone for the day. */
const AGAIN_MS = { failed: HOUR_MS / 6, stopped: DAY_MS }

/** How a regular copy came about so far. */
export interface RegularCopyHistory {
  createdAt: Date
  everyDays: number
  /** When the last one was made; null: none was yet. */
  lastAt: Date | null
  /** How the attempt after it ended; null: there was none, or it is at work. */
  ended: { state: 'failed' | 'stopped'; at: Date } | null
}

/** From when on a copy is to be made as soon as its device is attached. */
export function dueFrom({ createdAt, everyDays, lastAt, ended }: RegularCopyHistory): Date {
  const due = lastAt ? lastAt.getTime() + everyDays * DAY_MS - EARLIER_MS : createdAt.getTime()
  return new Date(ended ? Math.max(due, ended.at.getTime() + AGAIN_MS[ended.state]) : due)
}
