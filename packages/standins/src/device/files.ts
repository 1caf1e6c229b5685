import { createReadStream } from 'node:fs'
import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { openBackup } from '@lumbrin/core/backup/open'
import type { SourceEntry, SourceTree } from '@lumbrin/core/backup/types'
import sqlite from 'node-sqlite3-wasm'

/** A file of a made-up device. */
export interface DeviceFile {
  domain: string
  path: string
  id: string
  size: number
  modifiedAt: Date
}

/** What is on a made-up device. */
export interface DeviceFiles {
  files(): Iterable<DeviceFile>
  /** The bytes of a file from `start` on. */
  content(file: DeviceFile, start?: number): AsyncIterable<Uint8Array>
  /** When the bytes last changed: newer than the host's copy means that it is sent again. */
  changedAt(file: DeviceFile): Promise<Date>
  /** Lists of a backup of it, by name. */
  lists(): Promise<Map<string, Uint8Array>>
}

const LISTS = ['Manifest.plist', 'Manifest.db']

/** A device whose storage is kept as a computer backup of the modern layout. */
export class BackupFiles implements DeviceFiles {
  readonly #paths = new Map<string, string>()

  private constructor(
    readonly folder: string,
    readonly tree: SourceTree,
    readonly list: DeviceFile[],
  ) {}

  static async open(folder: string): Promise<BackupFiles> {
    const tree = await openBackup(folder, () => {})
    const list: DeviceFile[] = []
    const files = new BackupFiles(folder, tree, list)
    for (const entry of tree.entries()) {
      const path = entry.kind === 'file' ? await tree.storedPath(entry) : undefined
      if (!path) continue
      files.#paths.set(entry.id, path)
      list.push(deviceFile(entry))
    }
    return files
  }

  files() {
    return this.list
  }

  content(file: DeviceFile, start = 0): AsyncIterable<Uint8Array> {
    return createReadStream(this.#paths.get(file.id) as string, { start, highWaterMark: 256 << 10 })
  }

  async changedAt(file: DeviceFile): Promise<Date> {
    return (await stat(this.#paths.get(file.id) as string)).mtime
  }

  async lists(): Promise<Map<string, Uint8Array>> {
    return new Map(
      await Promise.all(LISTS.map(async (name) => [name, await readFile(join(this.folder, name))] as const)),
    )
  }

  /** Lets `change` work in one of the device's databases, as its own applications would. */
  inDatabase<T>(domain: string, path: string, change: (database: sqlite.Database) => T): T {
    const file = this.list.find((one) => one.domain === domain && one.path === path)
    const stored = file && this.#paths.get(file.id)
    if (!file || !stored) throw new Error(`the device has no ${path}`)
    const database = new sqlite.Database(stored)
    try {
      return change(database)
    } finally {
      database.close()
      file.modifiedAt = new Date()
    }
  }
}

const deviceFile = ({ domain, path, id, size, modifiedAt }: SourceEntry): DeviceFile => ({
  domain,
  path,
  id,
  size: size ?? 0,
  modifiedAt: modifiedAt ?? new Date(0),
})
