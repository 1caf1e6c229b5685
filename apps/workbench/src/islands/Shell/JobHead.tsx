import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'
import { countFindings, countTray, useJobProgress } from '../../components/useJobProgress'
import { briefSentence } from '../../domain/brief-words'
import { formatCount, zonePlace } from '../../domain/format'
import type { SavedBrief } from '../../domain/job'
import { ZONE_WORDS } from '../../domain/labels'
import type { JobProgress } from '../../domain/progress'
import type { Wire } from '../../domain/wire'

interface Props {
  jobId: number
  number: string
  /** As the page came with it. */
  saved: SavedBrief
  view: string
  sources: number
  progress: Wire<JobProgress>
}

/** Whose job it is, what is sought, and its views, each with its count. */
export const JobHead = (props: Props) => (
  <Island>
    <Head {...props} />
  </Island>
)

function Head({ jobId, number, saved, ...tabs }: Props) {
  // It changes where it is written, on this very page.
  const { answer } = useAsk('GET /api/jobs/{job}/brief', { path: { job: jobId } }, { first: saved, when: false })
  const { brief, timeZone, timeZoneOf } = answer ?? saved
  return (
    <>
      <div className="flex items-baseline gap-3">
        <h1 className="private whitespace-nowrap">{brief.owner}</h1>
        <span className="font-mono text-sm whitespace-nowrap text-soft">{number}</span>
        <p className="private min-w-0 truncate text-soft">{briefSentence(brief)}</p>
        <span
          className="ml-auto shrink-0 text-sm text-soft"
          title={`Times are those of ${timeZone}, ${ZONE_WORDS[timeZoneOf]}. The brief can name another zone.`}
        >
          times of {zonePlace(timeZone)}
        </span>
      </div>
      <Tabs jobId={jobId} {...tabs} />
    </>
  )
}

function Tabs({
  jobId,
  view,
  sources: first,
  progress: withPage,
}: Pick<Props, 'jobId' | 'view' | 'sources' | 'progress'>) {
  // Asked for by the page that shows them.
  const { answer } = useAsk('GET /api/jobs/{job}/sources', { path: { job: jobId } }, { when: false })
  const sources = answer?.sources.length ?? first
  const progress = useJobProgress(jobId, withPage)
  const tabs = [
    { id: 'answer', label: 'Answer', count: null },
    { id: 'sources', label: 'Sources', count: sources },
    { id: 'findings', label: 'Findings', count: countFindings(progress) },
    { id: 'people', label: 'People', count: null },
    { id: 'tray', label: 'Tray', count: countTray(progress) },
    { id: 'handover', label: 'Handover', count: progress.handovers.length },
    { id: 'log', label: 'Log', count: null },
  ]
  return (
    <nav aria-label="Job" className="mt-1 flex flex-wrap gap-x-6">
      {tabs.map((tab) => (
        <a
          key={tab.id}
          href={`/jobs/${jobId}/${tab.id}`}
          aria-current={tab.id === view ? 'page' : undefined}
          className="border-b-2 border-transparent pb-1.5 text-soft aria-[current]:border-accent aria-[current]:font-semibold aria-[current]:text-ink"
        >
          {tab.label}{' '}
          {tab.count !== null && <span className="ml-0.5 text-sm font-normal text-soft">{formatCount(tab.count)}</span>}
        </a>
      ))}
    </nav>
  )
}
