import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { FormatError, messageOf, type Report, SourceError, type Warning } from '../io/errors.js'
import { asUnreadable, FileSource } from '../io/file.js'
import { readAll } from '../io/source.js'
import { dateOf, isDict, type PlistValue, parsePlistDict, textOf } from '../plist/read.js'
import type { SourceInfo } from './types.js'

type Dict = { [key: string]: PlistValue }

// Info.plist carries icons and settings of every application; real ones stay below this.
const MAX_PLIST_BYTES = 64 << 20

/** The list of files of a backup, by its layout. */
export const LIST_NAMES = { modern: 'Manifest.db', legacy: 'Manifest.mbdb' } as const

/** Which manifest a folder has, by its contents: names of backup folders are not to be trusted. */
export async function layoutOf(folder: string): Promise<'modern' | 'legacy' | undefined> {
  for (const layout of ['modern', 'legacy'] as const) if (await isFile(join(folder, LIST_NAMES[layout]))) return layout
  return undefined
}

const isFile = (path: string) =>
  stat(path).then(
    (found) => found.isFile(),
    (thrown: unknown) => {
      if (isRefusal(thrown)) throw refused(path, thrown)
      return false
    },
  )

function isRefusal(thrown: unknown): boolean {
  const known = asUnreadable(thrown)
  return known instanceof FormatError && known.code === 'unreadable'
}

const refused = (path: string, thrown: unknown): SourceError =>
  new SourceError(
    'not-readable',
    `"${path}" is there, and the system does not give it out: ${messageOf(thrown)}. Try again, or copy the backup to another disk.`,
    { cause: thrown },
  )

/** When the list of files of a backup was last written, as the file system tells; undefined: it has none. */
export async function listChangedAt(folder: string): Promise<number | undefined> {
  for (const name of Object.values(LIST_NAMES)) {
    const found = await stat(join(folder, name)).catch(() => undefined)
    if (found) return found.mtimeMs
  }
  return undefined
}

/**
 * Reads what a backup folder says about itself. Missing or damaged property lists are reported; what the
 * others say still counts.
 * @throws SourceError 'not-a-backup' when the folder holds no manifest; 'not-readable' when nobody can tell whether it is
 * encrypted
 */
export async function readBackupInfo(folder: string, report: Report): Promise<SourceInfo> {
  const layout = await layoutOf(folder)
  if (!layout) {
    const found = await stat(folder).catch(() => undefined)
    if (!found) throw new SourceError('not-found', `There is no folder "${folder}".`)
    throw new SourceError(
      'not-a-backup',
      `"${folder}" holds no backup: neither Manifest.db nor Manifest.mbdb is in it.`,
    )
  }
  const info = await readPlist(folder, 'Info.plist', report)
  const manifest = await readPlist(folder, 'Manifest.plist', (warning, thrown) => {
    requireReadable(folder, thrown)
    report(warning)
  })
  const status = await readPlist(folder, 'Status.plist', report)
  const lockdown = isDict(manifest.Lockdown) ? manifest.Lockdown : {}
  return {
    kind: 'computer-backup',
    layout,
    path: folder,
    deviceName: textOf(info['Device Name']) ?? textOf(lockdown.DeviceName) ?? textOf(info['Display Name']),
    productType: textOf(info['Product Type']) ?? textOf(lockdown.ProductType),
    osVersion: textOf(info['Product Version']) ?? textOf(lockdown.ProductVersion),
    uniqueId: textOf(info['Target Identifier']) ?? textOf(info['Unique Identifier']) ?? textOf(lockdown.UniqueDeviceID),
    serialNumber: textOf(info['Serial Number']) ?? textOf(lockdown.SerialNumber),
    takenAt: dateOf(info['Last Backup Date']) ?? dateOf(status.Date) ?? dateOf(manifest.Date),
    encrypted: manifest.IsEncrypted === true,
    installedApps: (Array.isArray(info['Installed Applications']) ? info['Installed Applications'] : []).flatMap(
      (id) => textOf(id) ?? [],
    ),
    complete: status.SnapshotState === undefined || status.SnapshotState === 'finished',
  }
}

/** The key bag of a backup and the wrapped key of its manifest, as far as they are there. */
export async function readKeys(
  folder: string,
): Promise<{ keybag: Uint8Array | undefined; manifestKey: Uint8Array | undefined }> {
  const manifest = await readPlist(folder, 'Manifest.plist', (_, thrown) => requireReadable(folder, thrown))
  const bytes = (value: PlistValue | undefined) => (value instanceof Uint8Array ? value : undefined)
  return { keybag: bytes(manifest.BackupKeyBag), manifestKey: bytes(manifest.ManifestKey) }
}

/** Manifest.plist alone says whether a backup is encrypted: that must not be guessed. @throws SourceError('not-readable') */
function requireReadable(folder: string, thrown: unknown): void {
  if (isRefusal(thrown)) throw refused(join(folder, 'Manifest.plist'), thrown)
}

async function readPlist(
  folder: string,
  name: string,
  report: (warning: Warning, thrown: unknown) => void,
): Promise<Dict> {
  try {
    const file = await FileSource.open(join(folder, name))
    try {
      return parsePlistDict(await readAll(file, MAX_PLIST_BYTES))
    } finally {
      await file.close()
    }
  } catch (thrown) {
    const missing = (thrown as NodeJS.ErrnoException).code === 'ENOENT'
    const what = missing ? `${name} is missing` : `${name} cannot be read: ${messageOf(thrown)}`
    const code = missing ? 'plist-missing' : 'plist-damaged'
    report({ code, message: `${what}; what it would say is unknown.`, path: name }, thrown)
    return {}
  }
}
