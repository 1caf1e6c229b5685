import type { Standing } from '@lumbrin/core/findings/standing'

const BIN_DAYS = 30
const RING = 2 * Math.PI * 5

const SHAPES: Record<Standing, (daysLeft: number | null) => React.ReactNode> = {
  kept: () => <circle cx="8" cy="8" r="3" fill="currentColor" />,
  binned: (daysLeft) => (
    <g fill="none" stroke="currentColor" strokeWidth="2.4">
      <circle cx="8" cy="8" r="5" opacity="0.28" />
      <circle
        cx="8"
        cy="8"
        r="5"
        transform="rotate(-90 8 8)"
        strokeDasharray={`${(RING * Math.min(daysLeft ?? BIN_DAYS, BIN_DAYS)) / BIN_DAYS} ${RING}`}
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
}

const COLOURS: Record<Standing, string> = {
  kept: 'text-kept',
  binned: 'text-binned',
  earlier: 'text-earlier',
  rebuilt: 'text-rebuilt',
  partial: 'text-partial',
}

/** What a standing means, for tooltips and the inspector. */
export const STANDING_MEANING: Record<Standing, string> = {
  kept: 'still on the device',
  binned: 'in its bin of recently deleted items',
  earlier: 'gone from the newest source, intact in an older one',
  rebuilt: 'deleted, whole again from leftovers',
  partial: 'deleted, some of it is missing',
}

interface Props {
  standing: Standing
  /** Of a binned item: the ring's arc shows them. */
  daysLeft?: number | null
  /** Shows the standing's word beside its mark. */
  label?: boolean
}

/** The mark of a standing: a shape of its own in a colour of its own. */
export function StandingMark({ standing, daysLeft = null, label = false }: Props) {
  const words =
    standing === 'binned' && daysLeft !== null
      ? `binned, ${daysLeft} ${daysLeft === 1 ? 'day' : 'days'} left`
      : standing
  return (
    <span className={`inline-flex items-center gap-1.5 ${COLOURS[standing]}`} title={STANDING_MEANING[standing]}>
      <svg
        width="14"
        height="14"
        viewBox="0 0 16 16"
        role={label ? 'presentation' : 'img'}
        aria-label={label ? undefined : words}
      >
        {SHAPES[standing](daysLeft)}
      </svg>
      {label && <span>{words}</span>}
    </span>
  )
}
