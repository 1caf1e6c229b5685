import type { JobSources } from '../domain/source'
import type { Wire } from '../domain/wire'
import { useAsk } from './useAsk'

/** The sources of a job as they stand now; the first answer comes with the page. */
export const useSources = (jobId: number, first: Wire<JobSources>): Wire<JobSources> =>
  useAsk('GET /api/jobs/{job}/sources', { path: { job: jobId } }, { first }).answer ?? first
