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
 * The value of a costly question that many ask at the same time: asked once for all of them, and kept for some times as
 * long as its answer took. Large jobs are counted a few times a minute, small ones whenever somebody looks.
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
    () => entries.delete(key),
  )
  return entry.value as Promise<T>
}
