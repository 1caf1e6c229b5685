import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { plural } from '../../domain/format'
import { CATEGORY_LABELS, sourceName } from '../../domain/labels'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

/** A read that goes on: how far it is, and the way to stop it. */
export function ReadingNow({ read, source }: { read: Wire<Read>; source: Wire<Source> | undefined }) {
  const { act, failed } = useAct()
  const finished = read.steps.filter((step) => step.finished).length
  const items = read.steps.reduce((sum, step) => sum + step.done, 0)
  const step = read.steps.find((one) => !one.finished)
  return (
    <section
      aria-label="Reading"
      className="mt-4 border-l-4 border-accent bg-raised px-4 py-3"
      data-read-state={read.state}
    >
      <div className="flex items-baseline gap-3">
        <strong>{read.state === 'queued' ? 'Waiting to be read' : 'Reading'}</strong>
        <span>{source ? sourceName(source.info) : ''}</span>
        <span className="text-soft">
          {step && read.state !== 'queued' && `${CATEGORY_LABELS[step.category]} · `}
          {plural(items, 'item')}
        </span>
        <button
          type="button"
          className="button ml-auto"
          onClick={() => act(() => ask('POST /api/reads/{read}/{action}', { path: { read: read.id, action: 'stop' } }))}
        >
          Stop
        </button>
      </div>
      <progress className="mt-2 w-full" max={read.steps.length} value={finished} aria-label="Steps done" />
      <Failure className="mt-2">{failed}</Failure>
    </section>
  )
}
