import type { SourceEntry } from './types.js'

/** What a backup lists: whole, or only what is of one domain. */
export interface EntryList {
  readonly count: number
  /** In the source's own order. @throws SourceError when the list cannot be had any more */
  all(): readonly SourceEntry[]
  /** The same of one domain. */
  of(domain: string): readonly SourceEntry[]
}

/** A list that is in memory. */
export class EntriesInMemory implements EntryList {
  readonly #byDomain = new Map<string, SourceEntry[]>()

  constructor(readonly entries: readonly SourceEntry[]) {
    for (const entry of entries) {
      const known = this.#byDomain.get(entry.domain)
      if (known) known.push(entry)
      else this.#byDomain.set(entry.domain, [entry])
    }
  }

  get count() {
    return this.entries.length
  }

  all() {
    return this.entries
  }

  of(domain: string): readonly SourceEntry[] {
    return this.#byDomain.get(domain) ?? []
  }
}
