import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { z } from 'zod'
import { briefSentence } from './brief-words.js'
import { count } from './core-values.js'
import { jobId } from './ids.js'
import type { JobSummary } from './job.js'
import { CLOSED, JOB_STAGES, type JobStage } from './job-stages.js'
import { day, time } from './time.js'

/** A job as it stands in the queue. */
export const jobLine = z.strictObject({
  id: jobId,
  number: z.string(),
  owner: z.string(),
  /** How the owner is reached. */
  contact: z.string(),
  device: z.string(),
  /** The brief in one sentence. */
  sought: z.string(),
  stage: z.enum(JOB_STAGES),
  due: day.nullable(),
  /** It was due before today, and the owner still waits. */
  overdue: z.boolean(),
  keepUntil: day,
  createdAt: time,
  sources: count,
  findings: count,
  tray: count,
  handovers: count,
})
export type JobLine = z.output<typeof jobLine>

type Counts = Pick<JobSummary, 'purgedAt' | 'sources' | 'findings' | 'reading' | 'tray' | 'handovers'>

/** How far the work at a job is on a day such as 2026-11-14. */
export function stageOf(job: Counts, keepUntil: string, today: string): JobStage {
  if (job.purgedAt) return 'purged'
  if (keepUntil < today) return 'to-purge'
  if (job.sources === 0) return 'no-source'
  if (job.reading > 0) return 'reading'
  if (job.findings === 0) return 'unread'
  if (job.handovers > 0) return 'handed-over'
  return job.tray === 0 ? 'to-look-through' : 'to-hand-over'
}

/** A job's line in the queue, as it stands at a moment. */
export function lineOf(job: JobSummary, now: Date): JobLine {
  const { id, number, owner, brief, timeZone, createdAt, sources, findings, tray, handovers } = job
  const keepUntil = dayIn(new Date(createdAt.getTime() + brief.retentionDays * DAY_MS), timeZone)
  const today = dayIn(now, timeZone)
  const stage = stageOf(job, keepUntil, today)
  return {
    id,
    number,
    owner,
    contact: brief.contact,
    device: brief.device,
    sought: briefSentence(brief),
    stage,
    due: brief.dueOn,
    overdue: brief.dueOn !== null && brief.dueOn < today && !CLOSED.includes(stage),
    keepUntil,
    createdAt,
    sources,
    findings,
    tray,
    handovers,
  }
}

/** The order of the queue: overdue first, then by the day on which each is due, what is closed last. */
export function byUrgency(a: JobLine, b: JobLine): number {
  const closed = Number(CLOSED.includes(a.stage)) - Number(CLOSED.includes(b.stage))
  const due = (a.due ?? '9999').localeCompare(b.due ?? '9999')
  return closed || Number(b.overdue) - Number(a.overdue) || due || b.id - a.id
}
