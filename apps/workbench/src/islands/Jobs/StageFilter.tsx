import type { JobLine } from '../../domain/job-queue'
import { JOB_STAGES, type JobStage, STAGES } from '../../domain/job-stages'
import type { Wire } from '../../domain/wire'

interface Props {
  jobs: readonly Wire<JobLine>[]
  /** Null: all. */
  stage: JobStage | null
  choose: (stage: JobStage | null) => void
}

/** Only jobs of one stage, with how many there are. */
export function StageFilter({ jobs, stage, choose }: Props) {
  const counts = new Map<JobStage, number>()
  for (const job of jobs) counts.set(job.stage, (counts.get(job.stage) ?? 0) + 1)
  return (
    <fieldset className="flex flex-wrap gap-1.5">
      <legend className="sr-only">State</legend>
      {JOB_STAGES.filter((one) => counts.has(one)).map((one) => (
        <button
          key={one}
          type="button"
          className="chip"
          aria-pressed={one === stage}
          onClick={() => choose(one === stage ? null : one)}
        >
          {STAGES[one].label} <span className="text-soft">{counts.get(one)}</span>
        </button>
      ))}
    </fieldset>
  )
}
