import { createHash } from 'node:crypto'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { build, buildBinary } from 'plist'

/** The device that a made-up backup claims to come from. */
export interface DeviceIdentity {
  name: string
  productType: string
  osVersion: string
  udid: string
  takenAt: Date
}

interface ListedFile {
  domain: string
  path: string
  flags: 1 | 2
  size: number
  modifiedAt: Date
}

/** Writes a computer backup in the modern layout, file by file. */
export class BackupBuilder {
  readonly #listed: ListedFile[] = []

  constructor(
    readonly folder: string,
    readonly device: DeviceIdentity,
  ) {}

  /** Adds a file and lists its folders as the device does. */
  async addFile(domain: string, path: string, content: Uint8Array, modifiedAt = this.device.takenAt): Promise<void> {
    const id = fileId(domain, path)
    await mkdir(join(this.folder, id.slice(0, 2)), { recursive: true })
    await writeFile(join(this.folder, id.slice(0, 2), id), content)
    this.#listed.push({ domain, path, flags: 1, size: content.byteLength, modifiedAt })
  }

  /** Lists a file whose content is not there. */
  addMissing(domain: string, path: string, size: number): void {
    this.#listed.push({ domain, path, flags: 1, size, modifiedAt: this.device.takenAt })
  }

  /** Writes the manifest and the property lists; the backup is complete after it. */
  async finish(): Promise<void> {
    const { device } = this
    await mkdir(this.folder, { recursive: true })
    this.#writeManifest()
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
      IsEncrypted: false,
      Version: '10.0',
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

  #writeManifest(): void {
    const database = new sqlite.Database(join(this.folder, 'Manifest.db'))
    database.exec(`CREATE TABLE Files (fileID TEXT PRIMARY KEY, domain TEXT, relativePath TEXT, flags INTEGER, file BLOB);
      CREATE INDEX FilesDomainIdx ON Files(domain); CREATE INDEX FilesRelativePathIdx ON Files(relativePath);
      CREATE INDEX FilesFlagsIdx ON Files(flags); CREATE TABLE Properties (key TEXT PRIMARY KEY, value BLOB); BEGIN`)
    const insert = database.prepare('INSERT INTO Files VALUES (?, ?, ?, ?, ?)')
    for (const file of [...this.#folders(), ...this.#listed])
      insert.run([fileId(file.domain, file.path), file.domain, file.path, file.flags, fileRecord(file)])
    insert.finalize()
    database.exec('COMMIT')
    database.close()
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
  }
  return buildBinary({
    $version: 100000,
    $archiver: 'NSKeyedArchiver',
    $top: { root: { UID: 1 } },
    $objects: ['$null', record, file.path, { $classname: 'MBFile', $classes: ['MBFile', 'NSObject'] }],
  })
}
