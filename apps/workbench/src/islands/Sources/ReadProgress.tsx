import type { CollectProgress } from '@lumbrin/core/collected/collector'
import { useEffect, useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, formatCount, formatSeconds, plural } from '../../domain/format'
import { CATEGORY_LABELS, PASS_WORDS, READ_STATE_WORDS } from '../../domain/labels'
import type { Read } from '../../domain/source'
import type { Wire } from '../../domain/wire'

/** A read, step by step, with the ways to stop it and to let it go on. */
export function ReadProgress({ jobId, read }: { jobId: number; read: Wire<Read> }) {
  const { act: perform, failed } = useAct()
  const act = (action: string) =>
    perform(() => ask('POST /api/reads/{read}/{action}', { path: { read: read.id, action } }))
  const items = read.steps.reduce((sum, step) => sum + step.done, 0)
  const running = ['queued', 'running', 'stopping'].includes(read.state)
  const current = read.state === 'running' ? read.steps.find((step) => !step.finished) : undefined
  return (
    <section aria-label={`Read ${read.id}`} className="border-l-2 border-rule pl-4">
      <div className="flex items-center gap-3">
        <strong data-read-state={read.state}>{`Read ${READ_STATE_WORDS[read.state]}`}</strong>
        <span className="text-soft">
          {plural(items, 'item')} <Speed read={read} items={items} /> · started{' '}
          <Moment at={read.startedAt ?? read.queuedAt} />
        </span>
        {['running', 'queued', 'away'].includes(read.state) && (
          <button type="button" className="button" onClick={() => act('stop')}>
            Stop
          </button>
        )}
        {['stopped', 'failed', 'away'].includes(read.state) && (
          <button type="button" className="button" onClick={() => act('resume')}>
            {read.state === 'away' ? 'Try now' : 'Resume'}
          </button>
        )}
        {items > 0 && (
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings`}>
            Look at the findings
          </a>
        )}
      </div>
      {running && read.fetching && <Fetching now={read.fetching} />}
      {running && (
        <progress
          className="mt-2 w-full"
          max={read.steps.length}
          value={read.steps.filter((step) => step.finished).length}
          aria-label="Steps done"
        />
      )}
      {read.waitsFor && (
        <p className="notice mt-2" role="status">
          {read.waitsFor} The read goes on by itself after that; what was found stays.
        </p>
      )}
      {read.state === 'done' || read.state === 'gaps' ? (
        <details className="mt-1">
          <summary className="text-soft">{plural(read.steps.length, 'step')}, category by category</summary>
          <Steps read={read} current={current} />
        </details>
      ) : (
        <Steps read={read} current={current} />
      )}
      <Failure className="mt-2">{failed || read.error}</Failure>
      {read.warnings.length > 0 && (
        <details className="notice mt-2">
          <summary>{plural(read.warnings.length, 'note')} on what could not be read; everything else was</summary>
          <ul className="mt-1 list-disc pl-5">
            {read.warnings.map((warning) => (
              <li key={`${warning.path}${warning.message}`}>{warning.message}</li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

function Steps({ read, current }: { read: Wire<Read>; current: Wire<Read>['steps'][number] | undefined }) {
  return (
    <ul className="mt-2 grid grid-cols-2 gap-x-8">
      {read.steps.map((step) => (
        <li key={step.position} className="flex justify-between border-b border-rule py-1">
          <span>
            {CATEGORY_LABELS[step.category]}: {PASS_WORDS[step.pass]}
          </span>
          <span className={step === current ? 'text-accent' : 'text-soft'}>
            {formatCount(step.done)} {step.finished ? 'done' : step === current ? 'reading…' : 'waiting'}
          </span>
        </li>
      ))}
    </ul>
  )
}

/** What is being fetched from a device or a cloud account: how much, how fast, how long still. */
function Fetching({ now }: { now: CollectProgress }) {
  const [first] = useState({ at: Date.now(), bytes: now.bytes })
  const seconds = (Date.now() - first.at) / 1000
  const rate = seconds > 2 ? (now.bytes - first.bytes) / seconds : 0
  const left = rate > 0 && now.bytesTotal > now.bytes ? (now.bytesTotal - now.bytes) / rate : null
  return (
    <p className="mt-1 text-sm" role="status">
      {now.what}: {plural(now.items, 'file')}
      {now.bytes > 0 && `, ${formatBytes(now.bytes)}`}
      {now.bytesTotal > now.bytes && ` of ${formatBytes(now.bytesTotal)}`}
      {rate > 0 && `, ${formatBytes(rate)} a second`}
      {left !== null && `, about ${formatSeconds(left)} left`}
    </p>
  )
}

/** Items a second since the read began. */
function Speed({ read, items }: { read: Wire<Read>; items: number }) {
  const [now, setNow] = useState<number | null>(null)
  useEffect(() => {
    if (read.state !== 'running') return setNow(null)
    const timer = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(timer)
  }, [read.state])
  const seconds = now && read.startedAt ? (now - Date.parse(read.startedAt)) / 1000 : 0
  return seconds > 0.5 ? <>at {formatCount(Math.round(items / seconds))} a second</> : null
}
