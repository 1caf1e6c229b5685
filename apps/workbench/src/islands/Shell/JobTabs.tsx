import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'
import { countFindings, countTray, useJobProgress } from '../../components/useJobProgress'
import { formatCount } from '../../domain/format'
import type { JobProgress } from '../../domain/progress'
import type { Wire } from '../../domain/wire'

interface Props {
  jobId: number
  view: string
  sources: number
  progress: Wire<JobProgress>
}

/** The views of a job, each with its count. */
export const JobTabs = (props: Props) => (
  <Island>
    <Tabs {...props} />
  </Island>
)

function Tabs({ jobId, view, sources: first, progress: withPage }: Props) {
  // Asked for by the page that shows them.
  const { answer } = useAsk('GET /api/jobs/{job}/sources', { path: { job: jobId } }, { when: false })
  const sources = answer?.sources.length ?? first
  const progress = useJobProgress(jobId, withPage)
  const tabs = [
    { id: 'brief', label: 'Brief', count: null },
    { id: 'sources', label: 'Sources', count: sources },
    { id: 'findings', label: 'Findings', count: countFindings(progress) },
    { id: 'tray', label: 'Tray', count: countTray(progress) },
    { id: 'handover', label: 'Handover', count: progress.handovers.length },
    { id: 'log', label: 'Log', count: null },
  ]
  return (
    <nav aria-label="Job" className="mt-2 flex gap-6">
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
