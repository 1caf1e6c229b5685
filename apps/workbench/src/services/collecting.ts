import { setMaxListeners } from 'node:events'
import { isDeepStrictEqual } from 'node:util'
import type { SourceInfo, SourceTree } from '@lumbrin/core/backup/types'
import { isListDamaged } from '@lumbrin/core/categories/account'
import type { Profile } from '@lumbrin/core/categories/chats/profile'
import { contentStateOf } from '@lumbrin/core/categories/content-state'
import type { ContentState } from '@lumbrin/core/categories/content-states'
import { storesFor, wantedBy } from '@lumbrin/core/categories/needs'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { type CollectedEntry, Collection } from '@lumbrin/core/collected/collection'
import type { Collector, CollectorOptions, CollectProgress } from '@lumbrin/core/collected/collector'
import { openSource, readSourceInfo } from '@lumbrin/core/collected/open'
import { DeviceCollector } from '@lumbrin/core/device/collector'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { type Report, SourceError, type Warning } from '@lumbrin/core/io/errors'
import { sideBySide } from '@lumbrin/core/io/side-by-side'
import { beat } from '../database/claims.js'
import type { Db } from '../database/connection.js'
import { type AwaitedContent, awaitedContents, placeKey, storeContentStates } from '../database/content-states.js'
import { asJson } from '../database/json.js'
import { appendLog } from '../database/log.js'
import { isRunning, keepFetching, updateSource, wasReadFrom } from '../database/sources.js'
import { formatBytes, plural } from '../domain/format.js'
import type { Read, Source } from '../domain/source.js'
import { cloudCollector } from './cloud.js'
import { deviceStamp, settleIfChanged } from './devices.js'
import { keysOf } from './keyring.js'

const TELL_MS = 400
const SETTLED_AT_ONCE = 200
// Small files cost a way there and back each; several at once keep the line busy.
const FETCHES_AT_ONCE = 24

/** Where a source fetches from; undefined: all of it lies on this computer. */
async function collectorOf(source: Source, options: CollectorOptions): Promise<Collector | undefined> {
  if (source.info.layout !== 'collected' || source.info.kind === 'image') return undefined
  const header = await new Collection(source.path).header()
  if (header.kind === 'device' && header.uniqueId)
    return new DeviceCollector(new Multiplexer(), header.uniqueId, options)
  return cloudCollector(source.jobId, header, options)
}

/**
 * The source of a read, opened, and brought up to what each step needs. For a backup on this computer that is nothing;
 * from a device or a cloud account it fetches as it goes, says how far it is, and stops when the read is stopped.
 */
export class ReadableSource {
  readonly #stop = new AbortController()
  /** Undoes the listening for the end of the process, which would keep every tree that was ever read. */
  readonly #stopListening: () => void
  #collector: Collector | undefined
  readonly #wants: (place: { domain: string; path: string }) => boolean
  #told = 0
  #files = 0
  #bytes = 0
  tree!: SourceTree

  private constructor(
    readonly db: Db,
    readonly read: Read,
    readonly source: Source,
    readonly report: Report,
    profiles: readonly Profile[],
    signal: AbortSignal,
    /** Warnings of its opening say that part of its list could not be read. */
    public listDamaged = false,
  ) {
    const stop = () => this.#stop.abort()
    signal.addEventListener('abort', stop, { once: true })
    this.#stopListening = () => signal.removeEventListener('abort', stop)
    // Each question on its way listens for it.
    setMaxListeners(0, this.#stop.signal)
    this.#wants = wantedBy([...new Set(read.steps.map((step) => step.category))], profiles)
  }

  /** @throws SourceError, DeviceError, CloudError */
  static async open(
    db: Db,
    read: Read,
    source: Source,
    report: Report,
    profiles: readonly Profile[],
    signal: AbortSignal,
  ): Promise<ReadableSource> {
    const readable = new ReadableSource(db, read, source, report, profiles, signal)
    try {
      readable.#collector = await collectorOf(source, {
        folder: source.path,
        report,
        // Where the database is away for a moment, the next batch says so.
        progress: (now) => void readable.#tell(now).catch(() => {}),
        signal: readable.#stop.signal,
        wants: readable.#wants,
      })
      // Once anything was read of it, its listing is a state with a date, and stays.
      await readable.#collector?.begin(!(await wasReadFrom(db, source.id)))
      await readable.#openTree()
      return readable
    } catch (thrown) {
      await readable.close()
      throw thrown
    }
  }

  /** True where the source lies elsewhere, and is fetched from. */
  get fetches(): boolean {
    return this.#collector !== undefined
  }

  async #openTree(): Promise<void> {
    const keys = await keysOf(this.source.id)
    const warnings: Warning[] = []
    const report: Report = (warning) => {
      warnings.push(warning)
      this.report(warning)
    }
    const tree = await openSource(this.source.path, report, { keys }, this.#collector && this.#fetch).catch(
      async (thrown: unknown) => {
        // That it is encrypted was not to be seen when it was added: its row asks for the password now.
        if (thrown instanceof SourceError && thrown.code === 'password-needed' && !this.source.info.encrypted)
          await this.#keepInfo(await readSourceInfo(this.source.path, report))
        throw thrown
      },
    )
    this.listDamaged = isListDamaged(warnings)
    await this.tree?.close()
    this.tree = tree
    if (this.#collector) await this.#keepSize()
    else await this.#keepInfo(tree.info)
  }

  /** Updates the source's row where the backup says more of itself than could be read when it was added. */
  async #keepInfo({ takenAt: date, ...says }: SourceInfo): Promise<void> {
    const { id, jobId, info, takenAt, bytes, files } = this.source
    const isDateNews = takenAt === null && date !== null
    if (!isDateNews && isDeepStrictEqual(JSON.parse(asJson(says)), info)) return
    const before = await deviceStamp(this.db, jobId)
    await updateSource(this.db, id, { ...says, takenAt: takenAt ?? date }, { bytes, files })
    await settleIfChanged(this.db, jobId, before)
  }

  async #keepSize(): Promise<void> {
    let bytes = 0
    let files = 0
    for (const entry of this.tree.entries()) {
      if (entry.kind !== 'file') continue
      files++
      bytes += entry.size ?? 0
    }
    await updateSource(this.db, this.source.id, this.tree.info, { bytes, files })
  }

  readonly #fetch = async (entry: CollectedEntry): Promise<boolean> => {
    const fetched = (await this.#collector?.fetch(entry)) ?? false
    this.#files++
    this.#bytes += entry.size ?? 0
    return fetched
  }

  /** The date of the state that a category's steps show. */
  async dateOf(category: CategoryId): Promise<Date | null> {
    if (!this.#collector) return this.tree.info.takenAt
    return (await this.#collector.dateOf(storesFor(category))) ?? this.tree.info.takenAt
  }

  /** Called before each step. */
  async prepare(category: CategoryId): Promise<void> {
    if (await this.#collector?.prepare(storesFor(category), this.#wants)) await this.#openTree()
  }

  /**
   * Fetches the contents of what was found: findings are there before it begins, and pictures as they come. What can be
   * had of each is kept with its sightings.
   */
  async fetchContents(): Promise<void> {
    if (!this.#collector) return
    const categories = [...new Set(this.read.steps.map((step) => step.category))]
    const awaited = await awaitedContents(this.db, this.source.id, categories)
    // Each once, however often it is listed: two that fetch the same content would write into one file.
    const left = new Map<string, CollectedEntry>()
    for (const entry of this.tree.entries())
      if (
        entry.kind === 'file' &&
        'reference' in entry &&
        (awaited.has(placeKey(entry)) || this.#wants(entry)) &&
        !(await this.tree.storedBytes(entry))
      )
        left.set(entry.id, entry as CollectedEntry)
    const bytesTotal = [...left.values()].reduce((sum, { size }) => sum + (size ?? 0), 0)
    let bytes = 0
    let items = 0
    const settled: AwaitedContent[] = []
    const fetch = async (entry: CollectedEntry) => {
      await this.#tell({ what: 'Fetching files', items: items++, bytes, bytesTotal })
      await this.#fetch(entry)
      bytes += entry.size ?? 0
      settled.push(...(awaited.get(placeKey(entry)) ?? []))
      if (settled.length >= SETTLED_AT_ONCE) await this.#settle(settled.splice(0))
    }
    try {
      // Where the line breaks, what waits for it need not try for longer.
      await sideBySide(left.values(), FETCHES_AT_ONCE, fetch, () => this.#stop.abort())
    } finally {
      await this.#settle(settled)
    }
    // What was here already, fetched for a step or by an earlier try.
    await this.#settle([...awaited.values()].flat())
    await appendLog(
      this.db,
      this.read.jobId,
      'Fetched',
      `${plural(this.#files, 'file')}, ${formatBytes(this.#bytes)}, kept in ${this.source.path}. Nothing was written to where they come from.`,
    )
  }

  /** Keeps what can be had now of the contents of these sightings. */
  async #settle(some: readonly AwaitedContent[]): Promise<void> {
    if (some.length === 0) return
    const states = new Map<number, ContentState>()
    for (const { id, sighting } of some) {
      const state = await contentStateOf(this.tree, sighting)
      // It was asked for: where it comes from does not have it any more, unless the line was cut.
      states.set(id, state === 'awaited' && !this.#stop.signal.aborted ? 'gone' : state)
    }
    await storeContentStates(this.db, this.read.jobId, states)
  }

  async #tell(now: CollectProgress): Promise<void> {
    if (Date.now() - this.#told < TELL_MS) return
    this.#told = Date.now()
    await beat(this.db, 'reads', this.read.id)
    await keepFetching(this.db, this.read.id, now)
    if (!(await isRunning(this.db, this.read.id))) this.#stop.abort()
  }

  async close(): Promise<void> {
    this.#stopListening()
    await this.#collector?.close()
    await this.tree?.close()
  }
}
