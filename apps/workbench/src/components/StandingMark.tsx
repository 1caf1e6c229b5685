import { BIN_DAYS, type BinTime, binTime } from '@lumbrin/core/findings/bin-days'
import type { Standing } from '@lumbrin/core/findings/standing'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { plural } from '../domain/format'
import { useTimes } from './times'

const RING = 2 * Math.PI * 5

const SHAPES: Record<Standing, (bin: BinTime | null) => React.ReactNode> = {
  kept: () => <circle cx="8" cy="8" r="3" fill="currentColor" />,
  binned: (bin) => (
    <g fill="none" stroke="currentColor" strokeWidth="2.4">
      <circle cx="8" cy="8" r="5" opacity="0.28" />
      <circle
        cx="8"
        cy="8"
        r="5"
        transform="rotate(-90 8 8)"
        strokeDasharray={`${(RING * arcDays(bin)) / BIN_DAYS} ${RING}`}
      />
    </g>
  ),
  earlier: () => (
    <path
      d="M8 2.2 14 5 8 7.8 2 5zM3.4 7.4 8 9.6l4.6-2.2L14 8l-6 2.8L2 8zm0 3L8 12.6l4.6-2.2L14 11l-6 2.8L2 11z"
      fill="currentColor"
    />
  ),
  rebuilt: () => <path d="M8 1.6 14.4 8 8 14.4 1.6 8z" fill="currentColor" />,
  partial: () => (
    <path
      d="M7.2 2.4v4.2l-1.6 1.8 1.6 1.4v3.8L1.6 8zM8.8 2.4 14.4 8l-5.6 5.6V9.2L7.4 8.2l1.4-1.6z"
      fill="currentColor"
    />
  ),
  // A frame, and something that stands outside of it.
  elsewhere: () => (
    <g fill="none" stroke="currentColor" strokeWidth="2">
      <path d="M7 4H2.6v9.4H12V9" />
      <rect x="9.4" y="2" width="4.6" height="4.6" fill="currentColor" stroke="none" />
    </g>
  ),
}

/** How much of the ring is drawn; all of it where the days are not known. */
const arcDays = (bin: BinTime | null): number =>
  bin === null ? BIN_DAYS : bin.state === 'expired' ? 0 : Math.min(bin.days, BIN_DAYS)

const COLOURS: Record<Standing, string> = {
  kept: 'text-kept',
  binned: 'text-binned',
  earlier: 'text-earlier',
  rebuilt: 'text-rebuilt',
  partial: 'text-partial',
  elsewhere: 'text-elsewhere',
}

/** What a standing means, for tooltips and the inspector. It is said of the device of the brief. */
export const STANDING_MEANING: Record<Standing, string> = {
  kept: 'live in the newest state of the device that was read',
  binned: 'in the bin of the newest state of the device that was read',
  earlier: 'gone from a newer state of the device, intact in an older one',
  rebuilt: 'in no state of the device; whole again from leftovers',
  partial: 'in no state of the device; some of it is missing',
  elsewhere: 'only on another device or in the account',
}

interface Props {
  standing: Standing
  /** When a binned item was put into its bin: the ring's arc shows the days that are left of it today. */
  binnedAt?: string | null
  /** Shows the standing's word beside its mark. */
  label?: boolean
}

/** A standing in words, with what is left of a bin's days at this moment. */
function standingWords(standing: Standing, binnedAt: string | null, zone: string): string {
  const bin = binTime(binnedAt === null ? null : new Date(binnedAt), new Date())
  if (bin === null) return standing
  const words = standing === 'elsewhere' ? 'elsewhere, in a bin' : standing
  return bin.state === 'left'
    ? `${words}, ${plural(bin.days, 'day')} left`
    : `${words}, expired since ${dayIn(bin.since, zone)}`
}

/** The mark of a standing: a shape of its own in a colour of its own. */
export function StandingMark({ standing, binnedAt = null, label = false }: Props) {
  const { zone } = useTimes()
  const words = standingWords(standing, binnedAt, zone)
  return (
    <span className={`inline-flex items-center gap-1.5 ${COLOURS[standing]}`} title={STANDING_MEANING[standing]}>
      <svg
        width="14"
        height="14"
        viewBox="0 0 16 16"
        role={label ? 'presentation' : 'img'}
        aria-label={label ? undefined : words}
      >
        {SHAPES[standing](binTime(binnedAt === null ? null : new Date(binnedAt), new Date()))}
      </svg>
      {label && <span>{words}</span>}
    </span>
  )
}
