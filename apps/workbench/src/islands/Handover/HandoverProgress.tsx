import { useEffect, useRef, useState } from 'react'
import { formatBytes, formatCount, formatSeconds } from '../../domain/format'
import type { Handover } from '../../domain/handover'
import type { Wire } from '../../domain/wire'

const WINDOW_MS = 30_000
// What was seen for a shorter time says nothing of what follows.
const LEAST_MS = 4000

/** Bytes a second over the last half minute; null: not known yet. */
export function rateOf(samples: readonly { at: number; bytes: number }[]): number | null {
  const first = samples[0]
  const last = samples.at(-1)
  if (!first || !last || last.at - first.at < LEAST_MS || last.bytes <= first.bytes) return null
  return (1000 * (last.bytes - first.bytes)) / (last.at - first.at)
}

function useRate(bytes: number): number | null {
  const samples = useRef<{ at: number; bytes: number }[]>([])
  const [rate, setRate] = useState<number | null>(null)
  useEffect(() => {
    const at = Date.now()
    samples.current = [...samples.current.filter((one) => at - one.at < WINDOW_MS), { at, bytes }]
    setRate(rateOf(samples.current))
  }, [bytes])
  return rate
}

/** How far a handover is: items, bytes, how fast, and for how long still. */
export function HandoverProgress({ handover }: { handover: Wire<Handover> }) {
  const { done, total, doneBytes, totalBytes, options } = handover
  const rate = useRate(doneBytes)
  const isWritten = done >= total
  const left = Math.max(0, totalBytes - doneBytes)
  return (
    <div className="mt-2">
      <div className="flex items-center gap-3">
        <progress
          className="w-full"
          max={Math.max(1, totalBytes)}
          value={isWritten ? totalBytes : doneBytes}
          aria-label="Bytes written"
        />
        <span className="figure whitespace-nowrap text-soft">
          {formatCount(done)} of {formatCount(total)}
        </span>
      </div>
      <p className="text-sm text-soft">
        {isWritten
          ? `Items are written. Report, pages and checksums follow${options.second === undefined ? '' : ', then the second copy'}.`
          : [
              `${formatBytes(doneBytes)} of ${formatBytes(totalBytes)}`,
              rate !== null && `${formatBytes(rate)} a second`,
              rate !== null && `about ${formatSeconds(left / rate)} for the items, then report and pages`,
            ]
              .filter(Boolean)
              .join(' · ')}
      </p>
    </div>
  )
}
