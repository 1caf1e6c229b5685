import type { ByteSource } from '../io/source.js'

/** One thing that a source lists. Paths use "/" and are relative to their domain's root. */
export interface SourceEntry {
  domain: string
  path: string
  kind: 'file' | 'directory' | 'link'
  /** Bytes of the content as the source declares them; 0 for directories and links; null where that is unknown. */
  size: number | null
  modifiedAt: Date | null
  createdAt: Date | null
  /** The name under which the source keeps the content. */
  id: string
  /** Where a link leads. */
  target: string | null
  /** The wrapped key of the content; null: the content is not encrypted. */
  key: Uint8Array | null
}

// Stored in sources.kind and in collections: renaming a value needs a migration.
export const SOURCE_KINDS = ['computer-backup', 'device', 'cloud-backup', 'cloud-library', 'image'] as const
export type SourceKind = (typeof SOURCE_KINDS)[number]

/** What a source says about itself and the device it came from. */
export interface SourceInfo {
  kind: SourceKind
  /** `collected`: files from a device, a cloud or a disk image, in no backup's layout; `copied`: a safe copy. */
  layout: 'modern' | 'legacy' | 'collected' | 'copied'
  path: string
  deviceName: string | null
  productType: string | null
  osVersion: string | null
  uniqueId: string | null
  serialNumber: string | null
  /** End of the last completed run: the state of the device that this source shows. */
  takenAt: Date | null
  encrypted: boolean
  /** Ids of the applications that the device listed as installed. */
  installedApps: string[]
  /** Categories that such a source can hold; absent: all. What it cannot hold is not gone. */
  only?: readonly string[]
  /** False: the last run was interrupted, so some content may be missing. */
  complete: boolean
}

/** A source as a tree of files, whatever it is made of. Nothing in it can be written. */
export interface SourceTree {
  readonly info: SourceInfo
  readonly fileCount: number
  /** The entry at exactly this place. */
  find(domain: string, path: string): SourceEntry | undefined
  /** All entries, in the source's own order. @throws SourceError when the list was changed since it was opened */
  entries(): Iterable<SourceEntry>
  /** Content that no entry names: left behind by interrupted or older runs. */
  strays(): Promise<SourceEntry[]>
  /**
   * Opens a file's content; the caller closes it.
   * Undefined: the source lists the file but does not hold it, or holds no key that opens it.
   */
  open(entry: SourceEntry): Promise<ByteSource | undefined>
  /** Bytes of a file's content, without opening it where that can be told; undefined: it cannot be had. */
  contentSize(entry: SourceEntry): Promise<number | undefined>
  /** Bytes that the source keeps for a file, encrypted or not; undefined: none. */
  storedBytes(entry: SourceEntry): Promise<number | undefined>
  /** Where a file's content lies on this computer; undefined: nowhere. */
  storedPath(entry: SourceEntry): Promise<string | undefined>
  /** True unless the file is encrypted with a key that cannot be had. */
  opens(entry: SourceEntry): boolean
  /** Opens a key that is wrapped with the key of a protection class. Undefined: the class is not open. */
  unwrap(protection: number, wrapped: Uint8Array): Uint8Array | undefined
  close(): Promise<void>
}
