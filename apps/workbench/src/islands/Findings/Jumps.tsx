import ChevronDown from 'lucide-react/icons/chevron-down'
import ChevronUp from 'lucide-react/icons/chevron-up'
import { formatCount } from '../../domain/format'
import type { useJumps } from './useJumps'

/** From one message that is sought to the next: where one is, and both ways. */
export function Jumps({ count, more, at, what, go }: ReturnType<typeof useJumps>) {
  if (count === 0) return null
  return (
    <span className="flex items-center gap-1 whitespace-nowrap text-soft">
      {at === null ? '' : `${formatCount(at + 1)} of `}
      {formatCount(count)}
      {more ? '+' : ''} {what}
      <button type="button" className="button !px-1" onClick={() => go(-1)} aria-label={`Previous: ${what}`}>
        <ChevronUp size={16} aria-hidden="true" />
      </button>
      <button type="button" className="button !px-1" onClick={() => go(1)} aria-label={`Next: ${what}`}>
        <ChevronDown size={16} aria-hidden="true" />
      </button>
    </span>
  )
}
