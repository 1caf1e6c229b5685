import { useQuery } from '@tanstack/react-query'
import { listen } from '../api/client'
import type { JobProgress } from '../domain/progress'
import type { Wire } from '../domain/wire'
import { useHydrated } from './useHydrated'

type Progress = Wire<JobProgress>

/**
 * Progress of a job as the server tells it; the first value comes with the page. All islands of a page share one stream,
 * since browsers open only a few connections to a server.
 */
export function useJobProgress(jobId: number, first: Progress): Progress {
  const queryKey = ['progress', jobId]
  const { data } = useQuery<Progress>({
    queryKey,
    initialData: first,
    // It ends when nobody listens any more; until then what is told takes the place of what was told before.
    queryFn: ({ signal, client }) =>
      new Promise((_, reject) => {
        const events = listen('GET /api/jobs/{job}/events', { path: { job: jobId } }, (told) =>
          client.setQueryData<Progress>(queryKey, (before) => filled(told, before)),
        )
        signal.addEventListener('abort', () => {
          events.close()
          reject(signal.reason)
        })
      }),
  })
  return useHydrated() ? filled(data, first) : first
}

/** While something is counted anew, the count before stays. */
function filled(told: Progress, before: Progress | undefined): Progress {
  if (!before || (told.tray && told.facets)) return told
  return { ...told, tray: told.tray ?? before.tray, facets: told.facets ?? before.facets }
}

/** All findings of a job; null while they are being counted. */
export const countFindings = ({ facets }: Progress): number | null =>
  facets &&
  Object.values(facets).reduce((sum, standings) => sum + Object.values(standings).reduce((a, b) => a + b, 0), 0)

/** All findings in the tray; null while they are being summed. */
export const countTray = ({ tray }: Progress): number | null => tray?.reduce((sum, line) => sum + line.count, 0) ?? null
