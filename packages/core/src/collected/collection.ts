import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { type FileHandle, mkdir, open, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { createInterface } from 'node:readline'
import { finished } from 'node:stream/promises'
import { z } from 'zod'
import { SOURCE_KINDS, type SourceEntry, type SourceInfo } from '../backup/types.js'
import { SourceError } from '../io/errors.js'
import { wellFormed } from '../io/text.js'

/** What a collection says of itself, in `collection.json`. Kept on disk: a change needs another version number. */
const Header = z.object({
  format: z.literal('lumbrin-collection'),
  version: z.literal(1),
  kind: z.enum(SOURCE_KINDS),
  deviceName: z.nullable(z.string()),
  productType: z.nullable(z.string()),
  osVersion: z.nullable(z.string()),
  uniqueId: z.nullable(z.string()),
  serialNumber: z.nullable(z.string()).default(null),
  takenAt: z.nullable(z.coerce.date()),
  /** When all that came beside the listing was there: a device's backup. Null: it is not. */
  receivedAt: z.nullable(z.coerce.date()).default(null),
  installedApps: z.array(z.string()),
  only: z.optional(z.array(z.string())),
  /** Where it comes from, in words of its own room: a device's id, a snapshot's id. */
  origin: z.record(z.string(), z.nullable(z.string())),
})
export type CollectionHeader = z.infer<typeof Header>
/** A header to be written; what is left out is not known. */
export type NewHeader = Omit<z.input<typeof Header>, 'format' | 'version' | 'takenAt'> & { takenAt: Date | null }

const Line = z.object({
  /** The name of its content: SHA-1 over domain, hyphen and path. */
  id: z.string().regex(/^[0-9a-f]{40}$/),
  domain: z.string(),
  path: z.string(),
  kind: z.enum(['file', 'directory', 'link']),
  size: z.nullable(z.number()),
  modifiedAt: z.nullable(z.coerce.date()),
  createdAt: z.nullable(z.coerce.date()),
  /** What the place it comes from needs to give the content. */
  reference: z.optional(z.string()),
})

/** An entry with what is needed to fetch its content. */
export interface CollectedEntry extends SourceEntry {
  reference: string | null
}

const HEADER = 'collection.json'
const LISTING = 'listing.jsonl'

/** True where a folder is a collection. */
export const isCollection = (folder: string): Promise<boolean> =>
  stat(join(folder, HEADER)).then(
    (found) => found.isFile(),
    () => false,
  )

/**
 * A folder in which that is kept what was fetched from a device or a cloud account: a listing of all that is there, and
 * the contents fetched so far. Contents take their name once they are whole, so that what lies here is right.
 */
export class Collection {
  constructor(readonly folder: string) {}

  async header(): Promise<CollectionHeader> {
    try {
      return Header.parse(wellFormed(JSON.parse(await readFile(join(this.folder, HEADER), 'utf8'))))
    } catch (thrown) {
      throw new SourceError('not-readable', `What was fetched into "${this.folder}" cannot be read.`, { cause: thrown })
    }
  }

  async writeHeader(header: NewHeader): Promise<void> {
    await mkdir(this.folder, { recursive: true })
    await this.#replace(HEADER, JSON.stringify({ format: 'lumbrin-collection', version: 1, ...header }))
  }

  async #replace(name: string, text: string): Promise<void> {
    await writeFile(join(this.folder, `${name}.part`), text)
    await rename(join(this.folder, `${name}.part`), join(this.folder, name))
  }

  async hasListing(): Promise<boolean> {
    return stat(join(this.folder, LISTING)).then(
      () => true,
      () => false,
    )
  }

  /** Writes the listing anew; it counts once all of it is there. */
  async writeListing(entries: AsyncIterable<CollectedEntry> | Iterable<CollectedEntry>): Promise<number> {
    const part = join(this.folder, `${LISTING}.part`)
    const out = createWriteStream(part)
    let count = 0
    try {
      for await (const { target: _, key: __, reference, ...line } of entries) {
        count++
        const text = `${JSON.stringify(reference === null ? line : { ...line, reference })}\n`
        if (!out.write(text)) await once(out, 'drain')
      }
    } finally {
      out.end()
      await finished(out)
    }
    await rename(part, join(this.folder, LISTING))
    return count
  }

  /** Entries of the listing; lines that are none are passed over and counted. */
  async listing(): Promise<{ entries: CollectedEntry[]; broken: number }> {
    const entries: CollectedEntry[] = []
    let broken = 0
    if (!(await this.hasListing())) return { entries, broken }
    const file = await open(join(this.folder, LISTING))
    for await (const text of createInterface({ input: file.createReadStream(), crlfDelay: Number.POSITIVE_INFINITY })) {
      const line = parsedLine(text)
      if (line) entries.push(line)
      else broken++
    }
    return { entries, broken }
  }

  /** Where a content lies, or will. */
  contentPath(id: string): string {
    return join(this.folder, 'contents', id.slice(0, 2), id)
  }

  /** A content that is being fetched; it goes on behind what an earlier try left. Whoever begins ends it. */
  async beginContent(id: string): Promise<GrowingContent> {
    const path = this.contentPath(id)
    const part = `${path}.part`
    const handle = await open(part, 'a').catch(async () => {
      await mkdir(dirname(path), { recursive: true })
      return open(part, 'a')
    })
    return new GrowingContent(path, part, handle, (await handle.stat()).size)
  }

  /** Forgets a content, whole or not: it is another one now. */
  async forget(id: string): Promise<void> {
    await rm(this.contentPath(id), { force: true })
    await rm(`${this.contentPath(id)}.part`, { force: true })
  }
}

function parsedLine(text: string): CollectedEntry | undefined {
  try {
    const line = Line.parse(wellFormed(JSON.parse(text)))
    return { ...line, reference: line.reference ?? null, target: null, key: null }
  } catch {
    return undefined
  }
}

/** A content on its way. */
export class GrowingContent {
  constructor(
    readonly path: string,
    readonly part: string,
    readonly handle: FileHandle,
    /** Bytes that are here, those of an earlier try among them. */
    public size: number,
  ) {}

  async add(bytes: Uint8Array): Promise<void> {
    await this.handle.writeFile(bytes)
    this.size += bytes.byteLength
  }

  /** Keeps only the first `size` bytes: what came behind them is not known to be right. */
  async cutTo(size: number): Promise<void> {
    if (size === this.size) return
    await this.handle.truncate(size)
    this.size = size
  }

  /** All of the file was fetched: it takes its name. */
  async keep(): Promise<void> {
    await this.handle.close()
    await rename(this.part, this.path)
  }

  /** The fetching was cut off: what is here stays, for a later one to go on with. */
  async pause(): Promise<void> {
    await this.handle.close()
  }

  /** Throws away what was fetched of it. */
  async discard(): Promise<void> {
    await this.handle.close()
    await rm(this.part, { force: true })
  }
}

/** What a source says of itself, from a collection's header. */
export function collectionInfo(folder: string, header: CollectionHeader): SourceInfo {
  const { kind, deviceName, productType, osVersion, uniqueId, serialNumber, takenAt, installedApps, only } = header
  return {
    kind,
    layout: 'collected',
    path: folder,
    deviceName,
    productType,
    osVersion,
    uniqueId,
    serialNumber,
    takenAt,
    encrypted: false,
    installedApps,
    ...(only ? { only } : {}),
    complete: true,
  }
}
