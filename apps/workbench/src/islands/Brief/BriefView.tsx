import { useCallback, useRef, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Island } from '../../components/Island'
import type { Brief } from '../../domain/brief'
import type { JobRoute } from '../../domain/route'
import { BriefForm } from './BriefForm'
import { RoutePanel } from './RoutePanel'

const PAUSE_MS = 300

/** The brief at the left; at the right the route, worked out again as the form changes. */
export function BriefView({
  jobId,
  brief,
  version,
  route: first,
  people,
}: {
  jobId: number
  brief: Brief
  version: string
  route: JobRoute
  /** Names that the job's findings know. */
  people: string[]
}) {
  const [route, setRoute] = useState(first)
  const [failed, setFailed] = useState('')
  const waiting = useRef<ReturnType<typeof setTimeout>>(undefined)
  const work = useCallback(
    (draft: Brief) => {
      clearTimeout(waiting.current)
      waiting.current = setTimeout(() => {
        ask('POST /api/jobs/{job}/route', { path: { job: jobId }, body: draft }).then(
          (answer) => {
            setRoute(answer)
            setFailed('')
          },
          (thrown) => setFailed(`The route is that of the saved brief: ${wordsOf(thrown)}`),
        )
      }, PAUSE_MS)
    },
    [jobId],
  )
  return (
    <Island>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_26rem] overflow-hidden">
        <div className="overflow-auto p-5">
          <BriefForm jobId={jobId} brief={brief} version={version} people={people} changed={work} />
        </div>
        <RoutePanel route={route} jobId={jobId} wanted={brief.categories} failed={failed} />
      </div>
    </Island>
  )
}
