import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { Scroller } from '../../components/Scroller'
import { Moment, type Zoned } from '../../components/times'
import { keyOf, useAsk } from '../../components/useAsk'
import { countTray, useJobProgress } from '../../components/useJobProgress'
import { useSources } from '../../components/useSources'
import type { JobAnswer } from '../../domain/answer'
import type { Brief } from '../../domain/brief'
import type { SavedBrief } from '../../domain/job'
import type { JobProgress } from '../../domain/progress'
import type { JobRoute } from '../../domain/route'
import type { JobSources } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { BriefForm } from '../Brief/BriefForm'
import { LookedThrough } from './LookedThrough'
import { ReadingNow } from './ReadingNow'
import { NextStep, Route } from './Route'
import { Strongest } from './Strongest'
import { Verdict } from './Verdict'

interface Props extends Zoned {
  jobId: number
  saved: SavedBrief
  /** When its content was removed; null: it is there. */
  purgedAt: string | null
  answer: JobAnswer
  /** Names that the job's findings know. */
  people: string[]
  sources: Wire<JobSources>
  progress: Wire<JobProgress>
}

/** What a job says of its brief, and the way on; the brief is changed beside what follows from it. */
export function AnswerView(props: Props) {
  return (
    <Island zone={props.zone}>
      {props.purgedAt === null ? <Answer {...props} /> : <Purged jobId={props.jobId} at={props.purgedAt} />}
    </Island>
  )
}

const KEPT = ['kept'] as const
const AT_WORK = ['queued', 'running', 'stopping']
const LOOK_MS = 2000

function Answer({ jobId, saved, answer: withPage, people, sources: listed, progress: told }: Props) {
  const client = useQueryClient()
  const request = { path: { job: jobId } }
  const kept = useAsk('GET /api/jobs/{job}/brief', request, { first: saved, when: false }).answer ?? saved
  const { brief, version } = kept
  const [isSaved, setIsSaved] = useState(false)
  const [editing, setEditing] = useState(false)
  const { sources } = useSources(jobId, listed)
  const progress = useJobProgress(jobId, told)
  const reading = progress.reads.filter(({ state }) => AT_WORK.includes(state))
  const { answer, failed, again } = useAsk('GET /api/jobs/{job}/answer', request, {
    first: withPage,
    every: reading.length > 0 && LOOK_MS,
  })
  const states = progress.reads.map(({ id, state }) => `${id} ${state}`).join()
  // A read that begins or ends changes what there is to do.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the states of the reads are what asks for it
  useEffect(() => void again(), [states])
  const draft = useDraftRoute(jobId)
  const now = answer ?? withPage
  const loss = { from: brief.lostFrom, to: brief.lostTo }
  const way = { route: now.route, jobId, wanted: brief.categories, loss }
  const shown =
    now.matches.length > 0
      ? { matches: now.matches, standings: LOST_STANDINGS }
      : { matches: now.before?.matches ?? [], standings: KEPT }
  // Where there is something to look at, that comes first.
  const leadsFirst = shown.matches.length === 0 && reading.length === 0
  const leave = () => {
    setEditing(false)
    draft.drop()
  }
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_25rem] overflow-hidden max-lg:block max-lg:overflow-auto">
      <Scroller label={editing ? 'Brief' : 'Answer and matches'} className="overflow-auto p-5 max-lg:overflow-visible">
        {editing ? (
          <BriefForm
            jobId={jobId}
            brief={brief}
            version={version}
            people={people}
            changed={draft.work}
            saved={(now) => {
              setIsSaved(true)
              client.setQueryData(keyOf('GET /api/jobs/{job}/brief', request), now)
              leave()
              void again()
            }}
            cancel={leave}
          />
        ) : (
          <>
            <Verdict
              jobId={jobId}
              answer={now}
              begun={progress.reads.length > 0}
              reading={reading.length > 0}
              inTray={countTray(progress) ?? 0}
              edit={() => {
                setIsSaved(false)
                setEditing(true)
              }}
            />
            <output className="text-soft">{isSaved && 'The brief is saved.'}</output>
            {reading.map((read) => (
              <ReadingNow key={read.id} read={read} source={sources.find(({ id }) => id === read.sourceId)} />
            ))}
            <Failure className="mt-2">{failed}</Failure>
            {leadsFirst && <NextStep {...way} strong />}
            <Strongest jobId={jobId} {...shown} />
            {!leadsFirst && <NextStep {...way} strong={false} />}
            <LookedThrough answer={now.route.answer} />
          </>
        )}
      </Scroller>
      <Scroller
        label="Route"
        className="overflow-auto border-rule bg-sunk/40 p-5 max-lg:overflow-visible max-lg:border-t lg:border-l"
      >
        <Failure className="mb-3">{draft.failed}</Failure>
        <Route {...way} route={draft.route ?? now.route} />
      </Scroller>
    </div>
  )
}

/** A job that is over: its record is kept, and nothing leads on but a new one. */
function Purged({ jobId, at }: { jobId: number; at: string }) {
  return (
    <section aria-label="Answer" className="p-5">
      <h2 className="text-xl">Purged</h2>
      <p className="mt-1 max-w-2xl">
        What was read for this job was removed on <Moment at={at} />. Its log and its brief are kept. To look for more,
        open a new job.
      </p>
      <p className="mt-3 flex gap-3">
        <a className="button button-main" href="/jobs/new">
          New job
        </a>
        <a className="button" href={`/jobs/${jobId}/log`}>
          Open the log
        </a>
        <a className="button" href={`/jobs/${jobId}/order`}>
          Work order
        </a>
      </p>
    </section>
  )
}

const PAUSE_MS = 300

/** The route as it would be with the brief that is being written. */
function useDraftRoute(jobId: number) {
  const [route, setRoute] = useState<JobRoute | null>(null)
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
  const drop = () => {
    clearTimeout(waiting.current)
    setRoute(null)
    setFailed('')
  }
  return { route, failed, work, drop }
}
