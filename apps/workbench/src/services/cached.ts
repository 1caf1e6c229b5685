import type { JobId } from '../domain/ids.js'

interface Entry {
  value: Promise<unknown>
  /** Until then the value is as good as a new one. */
  until: number
}

// A count that takes a tenth of a second is asked for anew after half a second, one of milliseconds at once.
const SHARE = 5
const MOST_KEPT = 200

const entries = new Map<string, Entry>()

/**
 * Forgets what was answered about a job, or the answers to one question about it: after a change, whoever made it sees it at
 * once.
 */
export function forget(jobId: JobId, question?: string): void {
  for (const key of entries.keys()) {
    const [word, job] = key.split(' ')
    if (job === String(jobId) && (question === undefined || word === question)) entries.delete(key)
  }
}

/**
 * The value of a costly question that many ask at the same time: asked once for all of them, and kept for some times as
 * long as its answer took. The key is a word, the job's id, and what else tells the question from others. Large jobs are counted a few times a minute, small ones whenever somebody looks.
 */
export function cached<T>(key: string, compute: () => Promise<T>): Promise<T> {
  const known = entries.get(key)
  if (known && Date.now() < known.until) return known.value as Promise<T>
  const started = Date.now()
  const entry: Entry = { value: compute(), until: Number.POSITIVE_INFINITY }
  entries.delete(key)
  entries.set(key, entry)
  for (const oldest of entries.keys()) {
    if (entries.size <= MOST_KEPT) break
    entries.delete(oldest)
  }
  entry.value.then(
    () => {
      const now = Date.now()
      entry.until = now + SHARE * (now - started)
    },
    // A newer question under the same key is not its matter.
    () => entries.get(key) === entry && entries.delete(key),
  )
  return entry.value as Promise<T>
}
