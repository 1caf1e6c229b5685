import { type CollectedEntry, Collection } from '../collected/collection.js'
import type { Collector, CollectorOptions } from '../collected/collector.js'
import { digest } from '../io/hash.js'
import type { CloudClient } from './client.js'
import { collectedFile, fetchChunks } from './collector.js'

/** The domain of what a library lists, one item a line. */
export const LIBRARY_DOMAIN = 'CloudLibrary'
/** A line for each item: pictures and deleted files of the library, or the items of an archive. */
export const LIBRARY_LISTS = [
  'photos.jsonl',
  'deleted-files.jsonl',
  'contacts.jsonl',
  'calendars.jsonl',
  'reminders.jsonl',
  'bookmarks.jsonl',
] as const
export type LibraryList = (typeof LIBRARY_LISTS)[number]

/** What of a library is meant: its present state, or what it kept on an earlier day. */
export type LibraryPart = { kind: 'now' } | { kind: 'archives'; ids: readonly string[] }

/** Downloads a library: its lists at once, pictures and files when they are wanted. */
export class LibraryCollector implements Collector {
  readonly #collection: Collection

  constructor(
    readonly client: CloudClient,
    readonly part: LibraryPart,
    readonly options: CollectorOptions,
  ) {
    this.#collection = new Collection(options.folder)
  }

  /** The lists of an archive never change; those of the present are one state of the library, with its date. */
  async begin(anew: boolean): Promise<void> {
    const listed = await this.#collection.hasListing()
    if (listed && (this.part.kind === 'archives' || !anew)) return
    if (this.part.kind === 'now')
      await this.#collection.writeHeader({ ...(await this.#collection.header()), takenAt: new Date() })
    const lists = this.part.kind === 'now' ? await this.#present() : await this.#archived(this.part.ids)
    const entries: CollectedEntry[] = [...lists.files]
    for (const [name, lines] of lists.lines) entries.push(await this.#write(name, lines))
    await this.#collection.writeListing(entries)
  }

  async #present() {
    const files: CollectedEntry[] = []
    const photos: object[] = []
    for await (const { file, ...photo } of this.client.photos()) {
      files.push(collectedFile(file))
      photos.push({ ...photo, domain: file.domain, path: file.path, size: file.size })
      this.#tell(photos.length)
    }
    const deleted: object[] = []
    for await (const { file, ...one } of this.client.deletedFiles()) {
      files.push(collectedFile(file))
      deleted.push({ ...one, domain: file.domain, path: file.path, size: file.size })
    }
    const lines = new Map<LibraryList, object[]>([
      ['photos.jsonl', photos],
      ['deleted-files.jsonl', deleted],
    ])
    return { files, lines }
  }

  async #archived(ids: readonly string[]) {
    const lines = new Map<LibraryList, object[]>()
    for (const archive of (await this.client.archives()).filter(({ id }) => ids.includes(id))) {
      const items: object[] = []
      for await (const item of this.client.archiveItems(archive.id)) {
        items.push(item)
        this.#tell(items.length)
      }
      lines.set(`${archive.kind}.jsonl`, items)
    }
    return { files: [], lines }
  }

  #tell(items: number): void {
    this.options.progress({ what: 'Listing the library', items, bytes: 0, bytesTotal: 0 })
  }

  async #write(name: LibraryList, lines: readonly object[]): Promise<CollectedEntry> {
    const id = digest('sha1', `${LIBRARY_DOMAIN}-${name}`)
    await this.#collection.forget(id)
    const content = await this.#collection.beginContent(id)
    await content.add(Buffer.from(lines.map((line) => `${JSON.stringify(line)}\n`).join(''), 'utf8'))
    await content.keep()
    return {
      domain: LIBRARY_DOMAIN,
      path: name,
      kind: 'file',
      size: content.size,
      modifiedAt: null,
      createdAt: null,
      id,
      target: null,
      key: null,
      reference: null,
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
