// Common practice on these devices: what is in a bin goes by itself after about 30 days.
export const BIN_DAYS = 30
export const DAY_MS = 86_400_000

/** Days until the bin empties itself, counted from the source's own date; rounded up, at least 0. */
export function daysLeft(binnedAt: Date | null, takenAt: Date | null): number | null {
  if (!binnedAt || !takenAt) return null
  const left = BIN_DAYS - (takenAt.getTime() - binnedAt.getTime()) / DAY_MS
  return Math.max(0, Math.ceil(left))
}
