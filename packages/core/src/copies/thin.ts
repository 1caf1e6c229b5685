/** How long the copies of a device are kept. The newest always is. */
export interface ThinningRule {
  /** Days of which all are kept. */
  all: number
  /** Days of which the newest of each week is kept; of those before, the newest of each month. */
  weekly: number
}

const DAY = 86_400_000
// 1970-01-01 was a Thursday: weeks begin on Monday, as in ISO 8601.
const weekOf = (at: number) => `week ${Math.floor((at / DAY + 3) / 7)}`
const monthOf = (at: number) => new Date(at).toISOString().slice(0, 7)

/**
 * The copies that a rule gives up. Ages are counted from a moment, weeks and months by UTC.
 * @param now milliseconds
 */
export function givenUpBy<C extends { device: string; takenAt: Date }>(
  copies: readonly C[],
  { all, weekly }: ThinningRule,
  now: number,
): C[] {
  const kept = new Set<string>()
  const newestFirst = [...copies].sort((a, b) => b.takenAt.getTime() - a.takenAt.getTime())
  return newestFirst.filter(({ device, takenAt }) => {
    const at = takenAt.getTime()
    const days = (now - at) / DAY
    const isNewest = !kept.has(device)
    kept.add(device)
    const period = `${device} ${days <= weekly ? weekOf(at) : monthOf(at)}`
    const isFirstOfPeriod = !kept.has(period)
    kept.add(period)
    return !isNewest && days > all && !isFirstOfPeriod
  })
}
