import { createHash } from 'node:crypto'
import { openBackup } from '@lumbrin/core/backup/open'
import type { SourceEntry, SourceTree } from '@lumbrin/core/backup/types'
import { readStep } from '@lumbrin/core/categories/read'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Sighting } from '@lumbrin/core/categories/types'

/** Files travel in pieces of this size at most, each named by its hash. */
const CHUNK_BYTES = 256 << 10

export interface Chunk {
  sha256: string
  size: number
}

/** A file of a snapshot or of the library. */
export interface CloudFile {
  domain: string
  path: string
  kind: SourceEntry['kind']
  size: number
  modifiedAt: string | null
  chunks: Chunk[]
}

/** One backup that a device sent to the cloud. */
export interface Snapshot {
  id: string
  device: { id: string; name: string; productType: string; osVersion: string }
  takenAt: string
  complete: boolean
  bytes: number
  files: CloudFile[]
  installedApps: string[]
}

export interface LibraryPhoto {
  id: string
  condition: 'live' | 'binned'
  fields: Sighting['fields']
  title: string
  takenAt: string | null
  file: CloudFile
}

/** What the account kept of small items on one day. */
export interface Archive {
  id: string
  kind: 'contacts' | 'calendars' | 'reminders' | 'bookmarks'
  takenAt: string
  items: { title: string; when: string | null; text: string | null; fields: Sighting['fields'] }[]
}

export interface DeletedFile {
  id: string
  name: string
  folder: string
  deletedAt: string
  daysLeft: number
  file: CloudFile
}

/** Everything that the made-up account holds, and the bytes behind it. */
export class CloudData {
  readonly snapshots: Snapshot[] = []
  photos: LibraryPhoto[] = []
  readonly archives: Archive[] = []
  readonly deletedFiles: DeletedFile[] = []
  readonly #chunks = new Map<string, () => Promise<Uint8Array>>()

  /** Adds a computer backup as a snapshot, and an archive of its small items. */
  async addSnapshot(folder: string, id: string): Promise<SourceTree> {
    const tree = await openBackup(folder, () => {})
    const { info } = tree
    const files: CloudFile[] = []
    for (const entry of tree.entries()) files.push(await this.#file(tree, entry))
    const takenAt = info.takenAt?.toISOString() ?? ''
    this.snapshots.push({
      id,
      device: {
        id: info.uniqueId ?? '',
        name: info.deviceName ?? '',
        productType: info.productType ?? '',
        osVersion: info.osVersion ?? '',
      },
      takenAt,
      complete: info.complete,
      bytes: files.reduce((sum, { size }) => sum + size, 0),
      files,
      installedApps: info.installedApps,
    })
    for (const [kind, category] of ARCHIVED)
      this.archives.push({ id: `${kind}-${id}`, kind, takenAt, items: await archiveOf(tree, category) })
    return tree
  }

  /** Makes what the newest backup shows of the library the account's own library. */
  async setLibrary(tree: SourceTree): Promise<void> {
    this.photos = []
    for await (const { condition, fields, title, when, content } of readStep(
      tree,
      { category: 'photos', pass: 'live' },
      () => {},
    )) {
      const entry = content && tree.find(content.domain, content.path)
      if (!entry || (condition !== 'live' && condition !== 'binned')) continue
      const id = String(fields.uuid ?? content.path)
      this.photos.push({ id, condition, fields, title, takenAt: when, file: await this.#file(tree, entry) })
    }
  }

  /** A file that was thrown away lately. */
  addDeletedFile(name: string, folder: string, text: string, deletedAt: Date, daysLeft: number): void {
    const bytes = Buffer.from(text, 'utf8')
    const chunks = this.#keep(bytes.byteLength, async (start, end) => bytes.subarray(start, end), [hashOf(bytes)])
    const path = `${folder}/${name}`
    const file: CloudFile = {
      domain: 'CloudFiles',
      path,
      kind: 'file',
      size: bytes.byteLength,
      modifiedAt: deletedAt.toISOString(),
      chunks,
    }
    this.deletedFiles.push({
      id: hashOf(bytes).slice(0, 16),
      name,
      folder,
      deletedAt: deletedAt.toISOString(),
      daysLeft,
      file,
    })
  }

  /** The bytes of a chunk; undefined: there is none of this name. */
  chunk(sha256: string): Promise<Uint8Array> | undefined {
    return this.#chunks.get(sha256)?.()
  }

  async #file(tree: SourceTree, entry: SourceEntry): Promise<CloudFile> {
    const { domain, path, kind, modifiedAt } = entry
    const source = kind === 'file' ? await tree.open(entry) : undefined
    const size = source?.size ?? 0
    const hashes: string[] = []
    for (let at = 0; source && at < size; at += CHUNK_BYTES)
      hashes.push(hashOf(await source.read(at, Math.min(size, at + CHUNK_BYTES))))
    await source?.close()
    const read = async (start: number, end: number) => {
      const again = await tree.open(entry)
      const bytes = (await again?.read(start, end)) ?? new Uint8Array(0)
      await again?.close()
      return bytes
    }
    return {
      domain,
      path,
      kind,
      size,
      modifiedAt: modifiedAt?.toISOString() ?? null,
      chunks: this.#keep(size, read, hashes),
    }
  }

  #keep(size: number, read: (start: number, end: number) => Promise<Uint8Array>, hashes: string[]): Chunk[] {
    return hashes.map((sha256, index) => {
      const start = index * CHUNK_BYTES
      const end = Math.min(size, start + CHUNK_BYTES)
      this.#chunks.set(sha256, () => read(start, end))
      return { sha256, size: end - start }
    })
  }
}

const ARCHIVED: [Archive['kind'], CategoryId][] = [
  ['contacts', 'contacts'],
  ['calendars', 'events'],
  ['reminders', 'reminders'],
  ['bookmarks', 'bookmarks'],
]

async function archiveOf(tree: SourceTree, category: CategoryId): Promise<Archive['items']> {
  const items: Archive['items'] = []
  for await (const { condition, title, when, text, fields } of readStep(tree, { category, pass: 'live' }, () => {}))
    if (condition === 'live') items.push({ title, when, text, fields })
  return items
}

const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
