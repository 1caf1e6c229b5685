import type { CategoryId } from '@lumbrin/core/categories/registry'
import { useState } from 'react'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import { useJobProgress } from '../../components/useJobProgress'
import { useSources } from '../../components/useSources'
import type { Loss } from '../../domain/loss'
import type { JobProgress } from '../../domain/progress'
import type { JobSources } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { AddSource } from './AddSource'
import { Compare } from './Compare'
import { Devices } from './Devices'
import { ReadSummary } from './ReadSummary'
import { SourceCard } from './SourceCard'
import { Strata } from './Strata'

interface Props extends Zoned {
  jobId: number
  /** Categories of the brief: what a read is preset to. */
  wanted: CategoryId[]
  loss: Loss
  /** The device, in the brief's words. */
  named: string
  sources: Wire<JobSources>
  progress: Wire<JobProgress>
}

/** The sources of a job, their reads as they run, and the way to add one. */
export function SourcesView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Sources {...props} />
    </Island>
  )
}

// More of them stand in rows, so that all are seen at once.
const MOST_OPEN = 5

function Sources({ jobId, wanted, loss, named, sources: withPage, progress: first }: Props) {
  const { sources, devices, windows } = useSources(jobId, withPage)
  const progress = useJobProgress(jobId, first)
  const [chosen, setChosen] = useState<number[]>([])
  // The third one chosen takes the place of the first.
  const choose = (id: number) =>
    setChosen((now) => (now.includes(id) ? now.filter((one) => one !== id) : [...now.slice(-1), id]))
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_22rem] overflow-hidden max-lg:block max-lg:overflow-auto">
      <section
        aria-label="Sources of this job"
        className={`${sources.length > MOST_OPEN ? 'space-y-1' : 'space-y-6'} overflow-auto p-5`}
      >
        {sources.length === 0 && (
          <p className="text-soft">
            This job has no source yet. Add one of the backups found on this computer, or name the folder of another.
          </p>
        )}
        {sources.length > MOST_OPEN && <ReadSummary jobId={jobId} sources={sources} reads={progress.reads} />}
        <Strata sources={sources} devices={devices} loss={loss} windows={windows} chosen={chosen} choose={choose} />
        {devices.length > 1 && <Devices jobId={jobId} devices={devices} />}
        {sources.length > 1 && (
          <Compare jobId={jobId} sources={sources} devices={devices} chosen={chosen} setChosen={setChosen} />
        )}
        {sources.map((source) => (
          <SourceCard
            key={source.id}
            open={sources.length <= MOST_OPEN}
            source={source}
            wanted={wanted}
            loss={loss}
            reads={progress.reads.filter((read) => read.sourceId === source.id)}
            jobId={jobId}
            device={devices.find(({ sourceIds }) => sourceIds.includes(source.id))}
            devices={devices}
            encrypted={sources.filter(({ info }) => info.encrypted).length}
          />
        ))}
      </section>
      <aside aria-label="Add a source" className="overflow-auto border-l border-rule p-5">
        <AddSource jobId={jobId} sought={{ loss, wanted, named }} here={{ sources, devices, windows }} />
      </aside>
    </div>
  )
}
