/** Seconds from 1970-01-01 to 2001-01-01, both UTC: where the device's own clock starts. */
export const COCOA_EPOCH_SECONDS = 978_307_200

// Real dates lie between these years; anything else in a date column is a sentinel or damage.
const EARLIEST = Date.UTC(1990, 0, 1)
const LATEST = Date.UTC(2100, 0, 1)
// Seconds since 2001 stay below this until the year 5138; nanoseconds pass it after 100 seconds.
const NANOSECONDS_FROM = 1e11

const plausible = (ms: number): Date | null => (ms >= EARLIEST && ms < LATEST ? new Date(ms) : null)

/**
 * A date of the device's databases: seconds or nanoseconds since 2001-01-01 UTC, told apart by size
 * (a database upgraded across system versions holds both). Zero, negative and absurd values are no date: null.
 */
export function fromCocoa(value: unknown): Date | null {
  if (typeof value === 'bigint') return fromCocoaNanoseconds(value)
  if (typeof value !== 'number' || !(value > 0)) return null
  const seconds = value > NANOSECONDS_FROM ? value / 1e9 : value
  return plausible(Math.round((seconds + COCOA_EPOCH_SECONDS) * 1000))
}

// Nanosecond counts exceed 2^53: the division is done before anything is rounded.
function fromCocoaNanoseconds(value: bigint): Date | null {
  if (value <= 0n) return null
  return plausible(Number(value / 1_000_000n) + COCOA_EPOCH_SECONDS * 1000)
}

/** Seconds since 1970-01-01 UTC. Zero, negative and absurd values are no date: null. */
export function fromUnix(value: unknown): Date | null {
  const seconds = typeof value === 'bigint' ? Number(value) : value
  return typeof seconds === 'number' && seconds > 0 ? plausible(Math.round(seconds * 1000)) : null
}

/** Seconds from 1601-01-01 to 1970-01-01, both UTC. */
const WEBKIT_EPOCH_SECONDS = 11_644_473_600

/** Microseconds since 1601-01-01 UTC, as some browsers' engines count. */
export function fromWebkit(value: unknown): Date | null {
  const microseconds = typeof value === 'bigint' ? Number(value) : value
  return typeof microseconds === 'number' ? fromUnix(microseconds / 1e6 - WEBKIT_EPOCH_SECONDS) : null
}
