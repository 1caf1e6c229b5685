import { readdir, realpath, rename, rm, rmdir, utimes } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { syncFolder } from '../io/durable.js'
import { digest } from '../io/hash.js'
import { type ByteSource, chunksOf } from '../io/source.js'
import { addToBag, bagLabels, earlierBag, GROUP, SENDER, writeSynced } from './bag-adding.js'
import { readBag } from './bag-check.js'
import { BagJournal } from './bag-journal.js'
import { type PartTops, partsIn, planParts, splitInto } from './bag-parts.js'
import { makeFolder, mostFileBytes, openBelow, requireRealFolder, whyNotWritten } from './bag-place.js'
import { ReadBack } from './bag-return.js'
import { listedIn, tagsFor } from './bag-tags.js'
import { type BagFile, DestinationError, type Listed, PAYLOAD, type PartStarts, type Tag } from './bag-types.js'
import { OpenFile } from './open-file.js'
import type { Signer } from './signing.js'

/** How a bag is finished. */
export interface Finishing {
  /** Signs the manifest of tags, and with it all that the bag holds. */
  signer?: Signer | undefined
  /** Makes more files at the bag's top, of what its manifest lists; `starts`: of a bag that is split. */
  beside?: (listed: Listed, starts?: PartStarts) => Promise<Tag[]>
  /** Makes more files at the top of each part but the first. */
  besideFurther?: PartTops['further']
  /** The bag is split into parts of at most so many bytes, where it is larger. */
  partBytes?: number | undefined
}

/**
 * Writes a bag (RFC 8493) with a SHA-256 manifest. All of it is built in a folder beside the destination, which takes
 * the destination's name when the bag is complete: whoever looks there finds a whole package or none. Into an earlier
 * bag, what is new is moved when all of it is there, and the manifests follow.
 */
export class BagWriter {
  readonly files: BagFile[] = []

  /** Places by what was written there, and by the hash of what lies there. */
  readonly #placeOf = new Map<string, string>()
  readonly #placeOfContent = new Map<string, string>()
  readonly #open = new Set<OpenFile>()
  readonly #readBack: ReadBack
  /** The longest file that can lie where this bag is written. */
  mostFileBytes = Number.POSITIVE_INFINITY

  private constructor(
    readonly destination: string,
    readonly staging: string,
    /** Payload of the earlier bag that this one adds to. */
    readonly earlier: readonly BagFile[],
    /** This very bag was finished before, by a process that could not say so any more. */
    readonly complete: boolean,
    readonly journal: BagJournal,
    readonly id: string,
    readonly group: string | null,
  ) {
    this.#readBack = new ReadBack(staging)
    for (const { path, sha256 } of earlier) this.#placeOfContent.set(sha256, path.slice(PAYLOAD.length + 1))
  }

  /**
   * `id` names one handover through all its attempts: a later attempt goes on with what an earlier one had written.
   * `group` names the job that the bag belongs to; null: none.
   * @throws DestinationError when the folder holds something else than an earlier bag of this job that is as it was
   * written, or cannot be written
   */
  static async create(
    folder: string,
    names: { id?: string | undefined; group?: string | null } = {},
  ): Promise<BagWriter> {
    const { id = `${process.pid}-${Date.now()}`, group = null } = names
    const destination = await realPlaceOf(folder)
    const present = await readdir(destination).catch((thrown: NodeJS.ErrnoException) => {
      if (thrown.code === 'ENOENT') return []
      throw new DestinationError(`"${destination}" cannot be used: ${thrown.message}. Choose another folder.`)
    })
    const split = await partsIn(destination)
    if (split[0] !== undefined && (await bagLabels(join(destination, split[0]))).get(SENDER) === id) {
      const parts = await Promise.all(split.map(async (part) => (await readBag(join(destination, part))) ?? []))
      return new BagWriter(destination, destination, parts.flat(), true, new BagJournal(destination), id, group)
    }
    if (split.length > 0)
      throw new DestinationError(
        `"${destination}" holds a package in parts, to which nothing can be added. Nothing was written; choose another folder.`,
      )
    const earlier = present.length > 0 ? await earlierBag(destination, group) : []
    const staging = join(dirname(destination), `.${basename(destination)}.part-${digest('sha256', id).slice(0, 12)}`)
    const complete = earlier.length > 0 && (await bagLabels(destination)).get(SENDER) === id
    const journal = new BagJournal(staging)
    if (complete) return new BagWriter(destination, staging, earlier, true, journal, id, group)
    let most: number
    try {
      await makeFolder(join(staging, PAYLOAD))
      await requireRealFolder(join(staging, PAYLOAD))
      most = await mostFileBytes(staging)
      await journal.open()
    } catch (thrown) {
      await rm(staging, { recursive: true, force: true })
      if (thrown instanceof DestinationError) throw thrown
      throw new DestinationError(
        `"${destination}" cannot be written: ${await whyNotWritten(dirname(destination), thrown)}. Nothing was written; choose another folder.`,
      )
    }
    const bag = new BagWriter(destination, staging, earlier, false, journal, id, group)
    bag.mostFileBytes = most
    return bag
  }

  /** Writes one payload file; its time is set where known. What breaks off in the middle is no part of the bag. */
  async write(
    path: string,
    content: string | Uint8Array | AsyncIterable<Uint8Array>,
    modifiedAt?: Date | null,
  ): Promise<BagFile> {
    const file = await this.open(path)
    try {
      if (typeof content === 'string' || content instanceof Uint8Array) await file.write(content)
      else for await (const chunk of content) await file.write(chunk)
    } catch (thrown) {
      this.#open.delete(file)
      await file.handle.close()
      await rm(join(this.staging, PAYLOAD, path), { force: true })
      throw thrown
    }
    const written = await file.close()
    if (modifiedAt) await utimes(join(this.staging, PAYLOAD, path), modifiedAt, modifiedAt)
    return written
  }

  /** Where what is told by this key lies already. */
  placeOf(key: string): string | undefined {
    return this.#placeOf.get(key)
  }

  /**
   * Copies a file into the payload, unless an earlier attempt did. `key` tells the file from all others; `once`: it is
   * left out where the same bytes lie in the bag already. Gives its place, or that of the same bytes.
   */
  async writeContent(
    place: string,
    source: ByteSource,
    options: { key: string; modifiedAt?: Date | null; once?: boolean },
  ): Promise<{ place: string; duplicate: boolean }> {
    const { key, modifiedAt, once } = options
    const before = await this.journal.verified(place, key, join(this.staging, PAYLOAD, place))
    const file = before ?? (await this.write(place, chunksOf(source), modifiedAt))
    if (before) this.files.push(before)
    const known = this.#placeOfContent.get(file.sha256)
    if (once && known !== undefined) {
      this.files.splice(this.files.indexOf(file), 1)
      await rm(join(this.staging, PAYLOAD, place))
      this.#placeOf.set(key, known)
      return { place: known, duplicate: true }
    }
    if (!before) await this.journal.note(place, key, file)
    this.#placeOf.set(key, place)
    this.#placeOfContent.set(file.sha256, place)
    return { place, duplicate: false }
  }

  /** Opens a payload file that is written piece by piece; it counts as part of the bag once it is closed. */
  async open(path: string): Promise<OpenFile> {
    // What lies there is from an attempt that was broken off.
    const handle = await openBelow(this.staging, join(PAYLOAD, path))
    const file = new OpenFile(handle, async (bytes, sha256) => {
      this.#open.delete(file)
      const written = { path: `${PAYLOAD}/${path}`, bytes, sha256 }
      this.files.push(written)
      await this.#readBack.begin(written, handle)
      return written
    })
    this.#open.add(file)
    return file
  }

  /**
   * Writes manifests and tag files, reads every file back that was written, and puts the bag in its place.
   * @throws DestinationError where the disk gives back something else than was written
   */
  async finish(
    info: Record<string, string>,
    { signer, beside = async () => [], besideFurther = () => [], partBytes }: Finishing = {},
  ): Promise<void> {
    const written = new Set(this.files.map(({ path }) => path))
    // A file that is written anew takes the place of the one before.
    const files = [...this.earlier.filter(({ path }) => !written.has(path)), ...this.files]
    const group: Record<string, string> = this.group === null ? {} : { [GROUP]: this.group }
    const labels = { ...info, ...group, [SENDER]: this.id }
    await this.#removeStrangers()
    await this.#requireReadBack()
    await this.journal.remove()
    await this.#syncFolders()
    const parts = partBytes === undefined ? [] : planParts(files, partBytes)
    if (parts.length > 1) {
      await splitInto(this.staging, parts, { labels, signer }, { first: beside, further: besideFurther }, writeSynced)
      return this.#settle()
    }
    const tags = tagsFor({ files, labels, signer, beside: await beside(listedIn(files)) })
    for (const [name, content] of tags) await writeSynced(this.staging, name, content)
    if (this.earlier.length === 0) return this.#settle()
    await syncFolder(this.staging)
    await requireRealFolder(this.staging)
    await addToBag(this.destination, this.staging, this.files, this.earlier, tags)
    await this.discard()
    await syncFolder(dirname(this.destination))
  }

  /** Gives what was built the name of its destination. */
  async #settle(): Promise<void> {
    await syncFolder(this.staging)
    await requireRealFolder(this.staging)
    await rmdir(this.destination).catch(() => {})
    await rename(this.staging, this.destination)
    await syncFolder(dirname(this.destination))
  }

  /** Makes the names of all files last, before the bag counts as there. */
  async #syncFolders(): Promise<void> {
    const folders = new Set<string>()
    for (const { path } of this.files)
      for (let at = dirname(path); at !== '.'; at = dirname(at)) folders.add(join(this.staging, at))
    for (const folder of [...folders, this.staging]) await syncFolder(folder)
  }

  /** What the disk keeps is what counts. */
  async #requireReadBack(): Promise<void> {
    const altered = await this.#readBack.firstAltered(this.files)
    if (altered)
      throw new DestinationError(
        `"${altered.path}" was written, and cannot be read back as it was: the disk may be failing, or somebody changed it. Nothing was put into "${this.destination}"; try another disk.`,
      )
  }

  /** Removes what a broken attempt wrote and this one did not. */
  async #removeStrangers(): Promise<void> {
    if (!this.journal.resumed) return
    const written = new Set(this.files.map((file) => join(this.staging, file.path)))
    for (const entry of await readdir(join(this.staging, PAYLOAD), { recursive: true, withFileTypes: true })) {
      const path = join(entry.parentPath, entry.name)
      if (!entry.isDirectory() && !written.has(path)) await rm(path, { force: true })
    }
  }

  /** Leaves what was written so far to the next attempt. */
  async suspend(): Promise<void> {
    for (const file of this.#open) await file.close()
    await this.#readBack.settle()
    await this.journal.close()
  }

  /** Removes all that was written so far. */
  async discard(): Promise<void> {
    await this.suspend()
    await rm(this.staging, { recursive: true, force: true })
  }
}

/** The place that a path means, through whatever links lead there now. */
async function realPlaceOf(folder: string): Promise<string> {
  const path = resolve(folder)
  const there = await realpath(path).catch(() => undefined)
  const parent = await realpath(dirname(path)).catch(() => dirname(path))
  return there ?? join(parent, basename(path))
}
