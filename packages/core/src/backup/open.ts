import { lstat, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { FormatError, messageOf, type Report, SourceError } from '../io/errors.js'
import { asUnreadable, FileSource, RestingFile, withoutHole } from '../io/file.js'
import { type ByteSource, readAll } from '../io/source.js'
import { sniffDatabase } from '../sqlite/header.js'
import { DecryptedSource, fileKey } from './decrypted.js'
import { EntriesInMemory, type EntryList } from './entry-list.js'
import { LIST_NAMES, readBackupInfo, readKeys } from './info.js'
import { type Keybag, parseKeybag, unwrapKey } from './keybag.js'
import { readLegacyManifest } from './legacy.js'
import { readManifest } from './manifest.js'
import type { SourceEntry, SourceInfo, SourceTree } from './types.js'
import { type ClassKeys, type Progress, unlock } from './unlock.js'

/** How an encrypted backup is opened: with its password, or with keys that were derived before. */
export interface Unlocking {
  password?: string | undefined
  keys?: ClassKeys | undefined
  progress?: Progress
}

/**
 * Opens a computer backup as a tree of files. What is damaged is reported; the rest can be read.
 * @throws SourceError when nothing of it can be read, or when its password is missing or wrong
 */
export async function openBackup(folder: string, report: Report, unlocking: Unlocking = {}): Promise<SourceTree> {
  const info = await readBackupInfo(folder, report)
  const keys = info.encrypted ? (unlocking.keys ?? (await unlockBackup(folder, unlocking, report))) : undefined
  if (!info.complete)
    report({ code: 'backup-unfinished', message: 'The last backup run was interrupted: some content may be missing.' })
  return new BackupTree(info, await readEntries(info, keys, report), keys)
}

/**
 * The keys of an encrypted backup.
 * @throws SourceError('password-needed' | 'password-wrong'), or 'not-readable' where its key bag is damaged
 */
export async function unlockBackup(
  folder: string,
  { password, progress }: Unlocking,
  report: Report,
): Promise<ClassKeys> {
  if (password === undefined)
    throw new SourceError('password-needed', `"${folder}" is encrypted. Its password is needed; it is not kept.`)
  return unlock(await keybagOf(folder), password, report, progress)
}

async function keybagOf(folder: string): Promise<Keybag> {
  const { keybag } = await readKeys(folder)
  try {
    if (!keybag) throw new FormatError('bad-magic', 0, 'Manifest.plist holds no key bag')
    return parseKeybag(keybag)
  } catch (thrown) {
    throw damaged(`The key bag of "${folder}"`, thrown)
  }
}

async function readEntries(info: SourceInfo, keys: ClassKeys | undefined, report: Report): Promise<EntryList> {
  let file: RestingFile | undefined
  let log: RestingFile | undefined
  try {
    file = new RestingFile(listOf(info))
    // The log of an encrypted manifest would be encrypted in a way of its own; none was ever seen.
    log = keys ? undefined : tryFile(`${listOf(info)}-wal`)
    if (info.layout === 'legacy') return new EntriesInMemory(await readLegacyManifest(file, report))
    return readManifest(keys ? await decryptedManifest(info.path, file, keys) : file, report, log)
  } catch (thrown) {
    throw damaged(`The manifest of "${info.path}"`, thrown)
  } finally {
    file?.rest()
    log?.rest()
  }
}

const listOf = ({ path, layout }: SourceInfo): string => join(path, LIST_NAMES[layout === 'legacy' ? layout : 'modern'])

function tryFile(path: string): RestingFile | undefined {
  try {
    const file = new RestingFile(path)
    return file.size > 0 ? file : undefined
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return undefined
    throw asUnreadable(thrown)
  }
}

/** Encrypted backups of some versions have a manifest that is not encrypted itself. */
async function decryptedManifest(folder: string, file: ByteSource, keys: ClassKeys): Promise<ByteSource> {
  if (sniffDatabase(await file.read(0, Math.min(16, file.size)))) return file
  const { manifestKey } = await readKeys(folder)
  const key = manifestKey && fileKey(keys, manifestKey)
  if (!key) throw new FormatError('bad-value', 0, 'the key of the manifest is missing or damaged')
  return new DecryptedSource(file, key, file.size)
}

function damaged(what: string, thrown: unknown): unknown {
  if (!(thrown instanceof FormatError)) return thrown
  return new SourceError(
    'not-readable',
    `${what} cannot be read: ${messageOf(thrown)}. Try another copy of the backup.`,
    {
      cause: thrown,
    },
  )
}

class BackupTree implements SourceTree {
  /** By domain, of those in which something was looked for, then by path. */
  readonly #byPlace = new Map<string, Map<string, SourceEntry>>()

  constructor(
    readonly info: SourceInfo,
    readonly list: EntryList,
    readonly keys: ClassKeys | undefined,
  ) {}

  get fileCount() {
    return this.list.count
  }

  find(domain: string, path: string) {
    if (domain === STRAY_DOMAIN && /^[0-9a-f]{40}$/.test(path)) return strayEntry(path)
    return this.#placesIn(domain)?.get(path)
  }

  #placesIn(domain: string): Map<string, SourceEntry> | undefined {
    const known = this.#byPlace.get(domain)
    if (known) return known
    const listed = this.list.of(domain)
    if (listed.length === 0) return undefined
    const places = new Map(listed.map((entry) => [entry.path, entry]))
    this.#byPlace.set(domain, places)
    return places
  }

  entries() {
    return this.list.all()
  }

  async strays(): Promise<SourceEntry[]> {
    const known = new Set(this.list.all().map((entry) => entry.id))
    const strays: SourceEntry[] = []
    const shelves = (await namesIn(this.info.path)).filter((name) => /^[0-9a-f]{2}$/.test(name))
    for (const shelf of ['', ...shelves])
      for (const name of await namesIn(join(this.info.path, shelf)))
        if (/^[0-9a-f]{40}$/.test(name) && !known.has(name)) strays.push(strayEntry(name))
    return strays
  }

  async open(entry: SourceEntry): Promise<ByteSource | undefined> {
    const stored = await this.#content(entry.id)
    const file = stored && withoutHole(stored, entry.size)
    if (!file || !this.keys || entry.key === null) return file
    const key = fileKey(this.keys, entry.key)
    if (key) return new DecryptedSource(file, key, entry.size)
    await file.close()
    return undefined
  }

  async contentSize(entry: SourceEntry): Promise<number | undefined> {
    // What the system does not give out has no content that could be had.
    const source = await this.open(entry).catch((thrown: unknown) => {
      if (!(thrown instanceof FormatError)) throw thrown
      return undefined
    })
    await source?.close()
    return source?.size
  }

  async storedBytes({ id }: SourceEntry): Promise<number | undefined> {
    for (const path of this.#places(id)) {
      const found = await lstat(path).catch(() => undefined)
      if (found?.isFile()) return found.size
    }
    return undefined
  }

  async storedPath({ id }: SourceEntry): Promise<string | undefined> {
    for (const path of this.#places(id)) if ((await lstat(path).catch(() => undefined))?.isFile()) return path
    return undefined
  }

  opens(entry: SourceEntry): boolean {
    return !this.keys || entry.key === null || fileKey(this.keys, entry.key) !== undefined
  }

  unwrap(protection: number, wrapped: Uint8Array): Uint8Array | undefined {
    const key = this.keys?.get(protection)
    return key && unwrapKey(key, wrapped)
  }

  /** Ids were checked to be 40 hex digits, so the joined paths stay in the backup. */
  #places(id: string): [string, string] {
    const shelved = join(this.info.path, id.slice(0, 2), id)
    const flat = join(this.info.path, id)
    return this.info.layout === 'modern' ? [shelved, flat] : [flat, shelved]
  }

  async #content(id: string): Promise<FileSource | undefined> {
    const [first, second] = this.#places(id)
    return (await fileAt(first)) ?? fileAt(second)
  }

  async close() {}
}

const namesIn = (folder: string): Promise<string[]> =>
  readdir(folder).then(
    (names) => names.sort(),
    () => [],
  )

const strayEntry = (id: string): SourceEntry => ({
  domain: STRAY_DOMAIN,
  path: id,
  kind: 'file',
  id,
  size: null,
  modifiedAt: null,
  createdAt: null,
  target: null,
  key: null,
})

/** Stands for the domain of content that no entry names. */
export const STRAY_DOMAIN = 'stray'

async function fileAt(path: string): Promise<FileSource | undefined> {
  try {
    return await FileSource.open(path)
  } catch (thrown) {
    // A link or a folder in the place of a content file is not followed: it could lead anywhere.
    if (['ENOENT', 'ELOOP', 'EINVAL', 'ENOTDIR', 'EISDIR'].includes((thrown as NodeJS.ErrnoException).code ?? ''))
      return undefined
    throw asUnreadable(thrown)
  }
}

/** A whole small file of a source; undefined where it is not there. @throws FormatError when it is larger than `limit` */
export async function readEntry(tree: SourceTree, entry: SourceEntry, limit: number): Promise<Uint8Array | undefined> {
  const source = await tree.open(entry)
  if (!source) return undefined
  try {
    return await readAll(source, limit)
  } finally {
    await source.close()
  }
}
