import { isTimeZone } from '@lumbrin/core/io/time-zone'

/** The zone of the clock that this program runs by (IANA); UTC where the system names none. */
export function ownTimeZone(): string {
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions()
  return timeZone && isTimeZone(timeZone) && !/^Etc\//.test(timeZone) ? timeZone : 'UTC'
}
