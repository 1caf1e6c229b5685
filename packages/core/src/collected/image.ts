import { stat } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import type { SourceEntry, SourceInfo, SourceTree } from '../backup/types.js'
import { FileSource } from '../io/file.js'
import { digest } from '../io/hash.js'

/** Stands for the domain of a raw image's only file. */
export const IMAGE_DOMAIN = 'image'

/** What can be had of bytes without names: files that are cut out of them. */
const ONLY = ['app-pictures', 'app-videos', 'app-sounds', 'app-files']

/** What a raw image or another single file says about itself: its name and its date. Undefined: there is no such file. */
export async function readImageInfo(path: string): Promise<SourceInfo | undefined> {
  const found = await stat(path).catch(() => undefined)
  if (!found?.isFile()) return undefined
  return {
    kind: 'image',
    layout: 'collected',
    path,
    deviceName: basename(path),
    productType: null,
    osVersion: null,
    uniqueId: null,
    serialNumber: null,
    takenAt: found.mtime,
    encrypted: false,
    installedApps: [],
    only: ONLY,
    complete: true,
  }
}

/** A single file as a tree of one entry. It is opened read-only, and only searched for what lies inside. */
export class ImageTree implements SourceTree {
  readonly fileCount = 1
  readonly #entry: SourceEntry

  constructor(
    readonly info: SourceInfo,
    size: number,
  ) {
    const name = basename(info.path)
    this.#entry = {
      domain: IMAGE_DOMAIN,
      path: name,
      kind: 'file',
      size,
      modifiedAt: info.takenAt,
      createdAt: null,
      id: digest('sha1', `${dirname(info.path)}/${name}`),
      target: null,
      key: null,
    }
  }

  find(domain: string, path: string) {
    return domain === IMAGE_DOMAIN && path === this.#entry.path ? this.#entry : undefined
  }

  entries() {
    return [this.#entry]
  }

  async strays() {
    return []
  }

  open() {
    return FileSource.open(this.info.path)
  }

  async contentSize() {
    return this.#entry.size ?? undefined
  }

  async storedBytes() {
    return this.#entry.size ?? undefined
  }

  async storedPath() {
    return this.info.path
  }

  opens() {
    return true
  }

  unwrap() {
    return undefined
  }

  async close() {}
}
