import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { gapsOf, latestSteps } from '../../domain/account-words'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

/** What of a source could not be had, with the reasons, and the way to try again. Nothing where nothing is missing. */
export function ReadAccount({ source, reads }: { source: Wire<Source>; reads: readonly Wire<Read>[] }) {
  const { time } = useTimes()
  const { act, failed } = useAct()
  const lines = latestSteps(reads).flatMap(gapsOf)
  if (lines.length === 0) return null
  const retriable = lines.some((line) => line.retriable)
  const again = () => act(() => ask('POST /api/sources/{source}/again', { path: { source: source.id } }))
  return (
    <section
      aria-label={`What could not be had of ${source.info.deviceName ?? source.path}, ${time(source.takenAt)}`}
      className="border-l-2 border-binned pl-4"
    >
      <div className="flex items-center gap-3">
        <strong>What could not be had</strong>
        {retriable && (
          <button type="button" className="button" onClick={again}>
            Try again what is missing
          </button>
        )}
      </div>
      <ul className="mt-1 grid grid-cols-2 gap-x-8">
        {lines.map(({ key, label, words }) => (
          <li key={key}>
            {label}: <span className="text-soft">{words}</span>
          </li>
        ))}
      </ul>
      <Failure className="mt-2">{failed}</Failure>
    </section>
  )
}
