import { stat } from 'node:fs/promises'
import type { SourceEntry, SourceInfo, SourceTree } from '../backup/types.js'
import { asUnreadable, FileSource } from '../io/file.js'
import type { ByteSource } from '../io/source.js'
import type { CollectedEntry, Collection } from './collection.js'

/** Fetches a content into the collection. False: the place it comes from does not have it any more. */
export type Fetch = (entry: CollectedEntry) => Promise<boolean>

/** What was fetched, as a tree like any other. With `fetch`, what is not here yet is fetched when it is opened. */
export class CollectedTree implements SourceTree {
  readonly #byPlace = new Map<string, CollectedEntry>()

  constructor(
    readonly info: SourceInfo,
    readonly collection: Collection,
    readonly list: readonly CollectedEntry[],
    readonly fetch?: Fetch,
  ) {
    for (const entry of list) this.#byPlace.set(placeKey(entry.domain, entry.path), entry)
  }

  get fileCount() {
    return this.list.length
  }

  find(domain: string, path: string): CollectedEntry | undefined {
    return this.#byPlace.get(placeKey(domain, path))
  }

  entries() {
    return this.list
  }

  async strays(): Promise<SourceEntry[]> {
    return []
  }

  async open(entry: SourceEntry): Promise<ByteSource | undefined> {
    const known = this.find(entry.domain, entry.path)
    if (known?.kind !== 'file') return undefined
    if (!(await this.storedPath(known)) && !(await this.fetch?.(known))) return undefined
    return FileSource.open(this.collection.contentPath(known.id)).catch((thrown: unknown) => {
      throw asUnreadable(thrown)
    })
  }

  /** What is listed can be had, now or when the place it comes from is there again. */
  async contentSize(entry: SourceEntry): Promise<number | undefined> {
    return (await this.storedBytes(entry)) ?? this.find(entry.domain, entry.path)?.size ?? undefined
  }

  async storedBytes({ id }: SourceEntry): Promise<number | undefined> {
    return stat(this.collection.contentPath(id)).then(
      (found) => found.size,
      () => undefined,
    )
  }

  async storedPath(entry: SourceEntry): Promise<string | undefined> {
    return (await this.storedBytes(entry)) === undefined ? undefined : this.collection.contentPath(entry.id)
  }

  opens(): boolean {
    return true
  }

  unwrap(): undefined {
    return undefined
  }

  async close() {}
}

const placeKey = (domain: string, path: string) => `${domain}\0${path}`
