import { z } from 'zod'
import { type CollectedEntry, Collection } from '../collected/collection.js'
import type { Collector, CollectorOptions } from '../collected/collector.js'
import { digest } from '../io/hash.js'
import type { CloudClient } from './client.js'
import { CloudError } from './errors.js'
import { Chunk, type CloudFile } from './wire.js'

const Reference = z.array(Chunk)

// Waiting for each piece would leave the line idle; more at once would only fill memory.
const CHUNKS_AT_ONCE = 6

/** Downloads a snapshot: its listing at once, contents when they are wanted, in pieces that are checked one by one. */
export class CloudCollector implements Collector {
  readonly #collection: Collection

  constructor(
    readonly client: CloudClient,
    readonly snapshotId: string,
    readonly options: CollectorOptions,
  ) {
    this.#collection = new Collection(options.folder)
  }

  /** A snapshot never changes: a listing that is here is right. */
  async begin(): Promise<void> {
    if (!(await this.#collection.hasListing())) await this.#collection.writeListing(this.#list())
  }

  async *#list(): AsyncGenerator<CollectedEntry> {
    let items = 0
    for await (const file of this.client.snapshotFiles(this.snapshotId)) {
      this.options.progress({ what: 'Listing the snapshot', items: ++items, bytes: 0, bytesTotal: 0 })
      yield collectedFile(file)
    }
  }

  async prepare(): Promise<boolean> {
    return false
  }

  async dateOf(): Promise<Date | null> {
    return (await this.#collection.header()).takenAt
  }

  readonly fetch = async (entry: CollectedEntry): Promise<boolean> => fetchChunks(this.client, this.#collection, entry)

  async close(): Promise<void> {}
}

/** An entry of the listing for a file of the cloud. */
export function collectedFile({ domain, path, kind, size, modifiedAt, chunks }: CloudFile): CollectedEntry {
  return {
    domain,
    path,
    kind,
    size,
    modifiedAt,
    createdAt: null,
    id: digest('sha1', `${domain}-${path}`),
    target: null,
    key: null,
    reference: kind === 'file' ? JSON.stringify(chunks) : null,
  }
}

/** Fetches a file piece by piece, behind what an earlier try left of it. False: the service does not have it any more. */
export async function fetchChunks(
  client: CloudClient,
  collection: Collection,
  entry: CollectedEntry,
): Promise<boolean> {
  const chunks = Reference.safeParse(entry.reference === null ? undefined : JSON.parse(entry.reference))
  if (!chunks.success) return false
  const content = await collection.beginContent(entry.id)
  try {
    const { at, first } = wholeChunks(chunks.data, content.size)
    await content.cutTo(at)
    for await (const bytes of ahead(chunks.data.slice(first), (chunk) => client.chunk(chunk))) await content.add(bytes)
  } catch (thrown) {
    const gone = thrown instanceof CloudError && thrown.code === 'gone'
    await (gone ? content.discard() : content.pause())
    if (gone) return false
    throw thrown
  }
  await content.keep()
  return true
}

/** How many whole pieces an earlier try left, and where they end. */
function wholeChunks(chunks: readonly Chunk[], size: number): { at: number; first: number } {
  let at = 0
  let first = 0
  for (const chunk of chunks) {
    if (at + chunk.size > size) break
    at += chunk.size
    first++
  }
  return { at, first }
}

/** Results in order, some of them being made while one is used. */
async function* ahead<T, R>(items: readonly T[], make: (item: T) => Promise<R>): AsyncGenerator<R> {
  const coming: Promise<R>[] = []
  const queue = items.values()
  for (;;) {
    while (coming.length < CHUNKS_AT_ONCE) {
      const next = queue.next()
      if (next.done) break
      const made = make(next.value)
      made.catch(() => {})
      coming.push(made)
    }
    const first = coming.shift()
    if (!first) return
    yield await first
  }
}
