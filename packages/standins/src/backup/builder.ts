import { createHash } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { build, buildBinary } from 'plist'
import type { ListedFile } from './listed.js'
import { Lock, type LockSettings } from './lock.js'
import { legacyManifest } from './mbdb.js'

/** The device that a made-up backup claims to come from. */
export interface DeviceIdentity {
  name: string
  productType: string
  osVersion: string
  udid: string
  takenAt: Date
}

export interface BackupShape {
  layout?: 'modern' | 'legacy'
  lock?: LockSettings
}

/** Writes a computer backup file by file, in either layout, locked or not. */
export class BackupBuilder {
  readonly #listed: ListedFile[] = []
  readonly lock: Lock | undefined

  constructor(
    readonly folder: string,
    readonly device: DeviceIdentity,
    readonly shape: BackupShape = {},
  ) {
    this.lock = shape.lock && new Lock(shape.lock, device.udid)
  }

  /** Adds a file and lists its folders as the device does. */
  async addFile(domain: string, path: string, content: Uint8Array, modifiedAt = this.device.takenAt): Promise<void> {
    const sealed = content.byteLength > 0 ? this.lock?.seal(content) : undefined
    await this.#store(fileId(domain, path), sealed?.stored ?? content)
    this.#listed.push({ domain, path, flags: 1, size: content.byteLength, modifiedAt, key: sealed?.key })
  }

  /** Leaves a content that no entry names, as interrupted runs do. */
  addStray(name: string, content: Uint8Array): Promise<void> {
    return this.#store(fileId('stray', name), content)
  }

  async #store(id: string, content: Uint8Array): Promise<void> {
    const shelf = this.shape.layout === 'legacy' ? this.folder : join(this.folder, id.slice(0, 2))
    await mkdir(shelf, { recursive: true })
    await writeFile(join(shelf, id), content)
  }

  /** Lists a file whose content is not there. */
  addMissing(domain: string, path: string, size: number): void {
    this.#listed.push({ domain, path, flags: 1, size, modifiedAt: this.device.takenAt })
  }

  /** Writes the manifest and the property lists; the backup is complete after it. */
  async finish(): Promise<void> {
    const { device } = this
    await mkdir(this.folder, { recursive: true })
    const manifestKey = await this.#writeManifest()
    const info = {
      'Device Name': device.name,
      'Display Name': device.name,
      'Product Type': device.productType,
      'Product Version': device.osVersion,
      'Target Identifier': device.udid,
      'Unique Identifier': device.udid.toUpperCase(),
      'Target Type': 'Device',
      'Last Backup Date': device.takenAt,
      'Installed Applications': ['example.puppetry.chat'],
    }
    const lockdown = {
      DeviceName: device.name,
      ProductType: device.productType,
      ProductVersion: device.osVersion,
      UniqueDeviceID: device.udid,
    }
    const manifest = {
      IsEncrypted: this.lock !== undefined,
      Version: this.shape.layout === 'legacy' ? '9.1' : '10.0',
      ...(this.lock ? { BackupKeyBag: this.lock.keybag } : {}),
      ...(manifestKey ? { ManifestKey: manifestKey } : {}),
      SystemDomainsVersion: '24.0',
      Date: device.takenAt,
      WasPasscodeSet: true,
      Lockdown: lockdown,
      Applications: {},
    }
    const status = {
      SnapshotState: 'finished',
      IsFullBackup: true,
      BackupState: 'new',
      Date: device.takenAt,
      UUID: fileId(device.udid, 'status').toUpperCase(),
      Version: '3.3',
    }
    await writeFile(join(this.folder, 'Info.plist'), build(info))
    await writeFile(join(this.folder, 'Manifest.plist'), buildBinary(manifest))
    await writeFile(join(this.folder, 'Status.plist'), buildBinary(status))
  }

  /** The wrapped key of the manifest, where it is encrypted. */
  async #writeManifest(): Promise<Buffer | undefined> {
    const files = [...this.#folders(), ...this.#listed]
    if (this.shape.layout === 'legacy') {
      await writeFile(join(this.folder, 'Manifest.mbdb'), legacyManifest(files))
      return undefined
    }
    const path = join(this.folder, 'Manifest.db')
    writeManifestDatabase(path, files)
    if (!this.lock) return undefined
    const { stored, key } = this.lock.sealManifest(await readFile(path))
    await writeFile(path, stored)
    return key
  }

  #folders(): ListedFile[] {
    const seen = new Map<string, ListedFile>()
    for (const { domain, path } of this.#listed) {
      const parts = path.split('/')
      for (let depth = 0; depth < parts.length; depth++) {
        const folder = parts.slice(0, depth).join('/')
        seen.set(`${domain}-${folder}`, { domain, path: folder, flags: 2, size: 0, modifiedAt: this.device.takenAt })
      }
    }
    return [...seen.values()]
  }
}

function writeManifestDatabase(path: string, files: readonly ListedFile[]): void {
  const database = new sqlite.Database(path)
  database.exec(`CREATE TABLE Files (fileID TEXT PRIMARY KEY, domain TEXT, relativePath TEXT, flags INTEGER, file BLOB);
      CREATE INDEX FilesDomainIdx ON Files(domain); CREATE INDEX FilesRelativePathIdx ON Files(relativePath);
      CREATE INDEX FilesFlagsIdx ON Files(flags); CREATE TABLE Properties (key TEXT PRIMARY KEY, value BLOB); BEGIN`)
  const insert = database.prepare('INSERT INTO Files VALUES (?, ?, ?, ?, ?)')
  for (const file of files)
    insert.run([fileId(file.domain, file.path), file.domain, file.path, file.flags, fileRecord(file)])
  insert.finalize()
  database.exec('COMMIT')
  database.close()
}

const fileId = (domain: string, path: string) => createHash('sha1').update(`${domain}-${path}`).digest('hex')

/** The record that Manifest.db keeps for each file: a keyed archive of class MBFile. */
function fileRecord(file: ListedFile): Uint8Array {
  const seconds = Math.floor(file.modifiedAt.getTime() / 1000)
  const folder = file.flags === 2
  const record = {
    $class: { UID: 3 },
    RelativePath: { UID: 2 },
    Size: file.size,
    Mode: folder ? 0o40755 : 0o100644,
    LastModified: seconds,
    LastStatusChange: seconds,
    Birth: seconds,
    InodeNumber: 0,
    UserID: 501,
    GroupID: 501,
    Flags: 0,
    ProtectionClass: folder ? 0 : 3,
    ...(file.key ? { EncryptionKey: { UID: 4 } } : {}),
  }
  const key = file.key
    ? [
        { $class: { UID: 5 }, 'NS.data': Buffer.from(file.key) },
        { $classname: 'NSMutableData', $classes: ['NSMutableData', 'NSData', 'NSObject'] },
      ]
    : []
  return buildBinary({
    $version: 100000,
    $archiver: 'NSKeyedArchiver',
    $top: { root: { UID: 1 } },
    $objects: ['$null', record, file.path, { $classname: 'MBFile', $classes: ['MBFile', 'NSObject'] }, ...key],
  })
}
