import { BIN_DAYS, DAY_MS } from '../categories/bin.js'

export { BIN_DAYS, DAY_MS }

/** How long an item will still be in its bin, at the moment at which that is asked (rule 7). */
export type BinTime = { state: 'left'; days: number } | { state: 'expired'; since: Date }

/** `binnedAt`: when it was put there; null: not known, and then nothing is said. */
export function binTime(binnedAt: Date | null, now: Date): BinTime | null {
  if (!binnedAt) return null
  const ends = new Date(binnedAt.getTime() + BIN_DAYS * DAY_MS)
  if (ends.getTime() <= now.getTime()) return { state: 'expired', since: ends }
  return { state: 'left', days: Math.ceil((ends.getTime() - now.getTime()) / DAY_MS) }
}
