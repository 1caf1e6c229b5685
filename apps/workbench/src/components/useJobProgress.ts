import { useEffect, useSyncExternalStore } from 'react'
import type { JobProgress } from '../domain/progress'
import type { Wire } from '../domain/wire'

type Progress = Wire<JobProgress>

/**
 * The progress of the page's job, told by the server. All islands of a page share one stream, since browsers open
 * only a few connections to a server.
 */
class ProgressStore {
  #value: Progress | undefined
  #events: EventSource | undefined
  readonly #listeners = new Set<() => void>()

  get = () => this.#value

  subscribe = (listener: () => void) => {
    this.#listeners.add(listener)
    return () => {
      this.#listeners.delete(listener)
    }
  }

  /** Begins to listen; asked again, it goes on with the same stream. */
  listen(jobId: number): void {
    if (this.#events) return
    this.#events = new EventSource(`/api/jobs/${jobId}/events`)
    this.#events.onmessage = (event) => {
      const told: Progress = JSON.parse(event.data)
      this.#value = filled(told, this.#value)
      for (const listener of this.#listeners) listener()
    }
  }
}

const store = new ProgressStore()
const nothing = () => undefined

/** Progress of a job as the server tells it; the first value comes with the page. */
export function useJobProgress(jobId: number, first: Progress): Progress {
  const told = useSyncExternalStore(store.subscribe, store.get, nothing)
  useEffect(() => store.listen(jobId), [jobId])
  if (!told) return first
  return filled(told, first)
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
