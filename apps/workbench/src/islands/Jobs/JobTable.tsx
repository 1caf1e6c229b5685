import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { plural } from '../../domain/format'
import type { JobSummary } from '../../domain/job'
import type { Wire } from '../../domain/wire'

type Job = Wire<JobSummary & { sought: string }>

/** What is to be done next in a job, and where. */
export function nextStep(
  job: Pick<Job, 'sources' | 'findings' | 'tray' | 'handovers'> & { purgedAt?: string | null; keepUntil?: string },
): {
  label: string
  view: string
} {
  if (job.purgedAt) return { label: 'Purged; see its record', view: 'log' }
  if (job.keepUntil && job.keepUntil < new Date().toISOString().slice(0, 10)) return { label: 'Purge', view: 'log' }
  if (job.sources === 0) return { label: 'Add a source', view: 'sources' }
  if (job.findings === 0) return { label: 'Read the source', view: 'sources' }
  if (job.handovers > 0) return { label: 'Check and close', view: 'handover' }
  return job.tray === 0 ? { label: 'Choose findings', view: 'findings' } : { label: 'Hand over', view: 'handover' }
}

const keepUntil = (job: Job) =>
  new Date(Date.parse(job.createdAt) + job.brief.retentionDays * DAY_MS).toISOString().slice(0, 10)

/** All jobs, newest first. */
export function JobTable({ jobs }: { jobs: Job[] }) {
  return (
    <div className="overflow-auto p-5">
      <div className="mb-4 flex items-center justify-between">
        <h1>Jobs</h1>
        <a href="/jobs/new" className="button button-main">
          New job
        </a>
      </div>
      {jobs.length === 0 ? (
        <p className="text-soft">No job yet. Open one with “New job”: who lost what, and when.</p>
      ) : (
        <table className="table">
          <thead>
            <tr>
              {['Number', 'Owner', 'Device', 'Sought', 'So far', 'Next step', 'Due', 'Keep until'].map((name) => (
                <th key={name}>{name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {jobs.map((job) => (
              <JobLine key={job.id} job={job} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  )
}

function JobLine({ job }: { job: Job }) {
  const next = nextStep({ ...job, keepUntil: keepUntil(job) })
  return (
    <tr className="hover:bg-sunk">
      <td className="font-mono text-sm whitespace-nowrap">
        <a href={`/jobs/${job.id}/brief`} className="text-accent underline-offset-2 hover:underline">
          {job.number}
        </a>
      </td>
      <td className="private font-semibold whitespace-nowrap">{job.owner}</td>
      <td>{job.brief.device || '–'}</td>
      <td className="max-w-md">{job.sought}</td>
      <td className="text-soft whitespace-nowrap">
        {plural(job.sources, 'source')} · {plural(job.findings, 'finding')}
        <br />
        {job.tray > 0 ? `${plural(job.tray, 'item')} in the tray` : 'tray empty'}
        {job.handovers > 0 && ` · ${plural(job.handovers, 'handover')}`}
      </td>
      <td className="whitespace-nowrap">
        <a href={`/jobs/${job.id}/${next.view}`} className="text-accent underline underline-offset-2">
          {next.label}
        </a>
      </td>
      <td className="whitespace-nowrap">{job.brief.dueOn ?? '–'}</td>
      <td className="whitespace-nowrap">{job.purgedAt ? `purged ${job.purgedAt.slice(0, 10)}` : keepUntil(job)}</td>
    </tr>
  )
}
