import { FormatError, type Report } from '../io/errors.js'
import { digest } from '../io/hash.js'
import type { ByteSource } from '../io/source.js'
import { fromUnix } from '../io/time.js'
import { unarchive } from '../plist/keyed.js'
import { isDict, type PlistValue } from '../plist/read.js'
import { Database, type Table } from '../sqlite/database.js'
import { RecordView } from '../sqlite/record.js'
import { KeyTable } from '../sqlite/residue/key-table.js'
import type { SqlValue } from '../sqlite/values.js'
import type { SourceEntry } from './types.js'

const KINDS = { 1: 'file', 2: 'directory', 4: 'link' } as const

// A backup of a full phone lists some hundred thousand files; far beyond that the list is made up.
const MAX_ENTRIES = 5_000_000

/** The name of a file's content in a backup: SHA-1 of domain, hyphen and path, in UTF-8 as stored. */
export const fileIdOf = (domain: string, path: string): string => digest('sha1', `${domain}-${path}`)

/**
 * Reads the file list of a modern backup (Manifest.db, table Files). Entries with impossible ids or paths that
 * would leave their folder are reported and left out. What else an entry tells is read from `source` when it is asked
 * for, and unknown where that cannot be read any more.
 * @throws FormatError when the manifest is no database
 */
export function readManifest(source: ByteSource, report: Report): SourceEntry[] {
  const database = Database.open(source, (warning) => report({ ...warning, path: 'Manifest.db' }))
  if (!database.tables.has('Files'))
    report({ code: 'manifest-damaged', message: 'The manifest has no list of files.', path: 'Manifest.db' })
  const table = database.tables.get('Files')
  const entries: SourceEntry[] = []
  let refused = 0
  if (table) {
    const files = new Files(database, table)
    const seen = new Ids()
    for (const { payload, location } of database.payloads(table)) {
      const entry = files.entryOf(payload, location)
      if (entry && entries.length < MAX_ENTRIES && seen.add(entry.id, entries)) entries.push(entry)
      else refused++
    }
  }
  if (refused > 0)
    report({
      code: 'entries-refused',
      message: `${refused} entries of the manifest are damaged, doubled or lead outside the backup; they are left out.`,
      path: 'Manifest.db',
    })
  return entries
}

/** The table of files: its rows are read again one by one when their entries are asked for more than their place. */
class Files {
  readonly #view: RecordView
  readonly #id: number
  readonly #domain: number
  readonly #path: number
  readonly #flags: number
  readonly #record: number
  #lastDomain = ''
  #lastBytes: Uint8Array = new Uint8Array()

  constructor(
    readonly database: Database,
    table: Table,
  ) {
    const positionOf = (column: string) =>
      table.storedPosition[table.columns.findIndex(({ name }) => name === column)] ?? -1
    this.#view = new RecordView(database.pager.header.encoding)
    this.#id = positionOf('fileID')
    this.#domain = positionOf('domain')
    this.#path = positionOf('relativePath')
    this.#flags = positionOf('flags')
    this.#record = positionOf('file')
  }

  /** The entry of a row. Undefined: it is damaged, or leads outside the backup. */
  entryOf(payload: Uint8Array, location: number): ManifestEntry | undefined {
    if (!this.#view.tryOpen(payload)) return undefined
    const domain = this.#domainOf()
    const path = this.#valueAt(this.#path)
    const kind = KINDS[this.#valueAt(this.#flags) as keyof typeof KINDS]
    const id = this.#valueAt(this.#id)
    if (domain === undefined || typeof path !== 'string' || typeof id !== 'string' || !kind) return undefined
    if (keyOfId(id) < 0 || !isInnerPath(path)) return undefined
    return new ManifestEntry(domain, path, kind, id, this, location)
  }

  /** Most files are of the domain of the one before; its name is made once for all of them. */
  #domainOf(): string | undefined {
    const bytes = this.#view.textBytes(this.#domain, this.#lastBytes)
    if (!bytes) return undefined
    if (bytes !== this.#lastBytes) {
      this.#lastBytes = bytes
      this.#lastDomain = String(this.#valueAt(this.#domain))
    }
    return this.#lastDomain
  }

  recordAt(location: number): Uint8Array | undefined {
    const opened = this.#record >= 0 && this.#view.tryOpen(this.database.payloadAt(location))
    return opened ? this.#view.blob(this.#record) : undefined
  }

  #valueAt(position: number): SqlValue | undefined {
    return position >= 0 && position < this.#view.count ? this.#view.value(position) : undefined
  }
}

const ID_DIGITS = 40
const KEY_DIGITS = 13

/** The first 52 bits of an id, the 40 hexadecimal digits of a SHA-1. -1: it is none. */
function keyOfId(id: string): number {
  if (id.length !== ID_DIGITS) return -1
  let key = 0
  for (let i = 0; i < ID_DIGITS; i++) {
    const code = id.charCodeAt(i)
    const digit = code <= 57 ? code - 48 : code - 87
    if (digit < 0 || digit > 15 || (code > 57 && digit < 10)) return -1
    if (i < KEY_DIGITS) key = key * 16 + digit
  }
  return key
}

/** Ids that came, by their keys, which are never the same by chance: only when two are, they are compared whole. */
class Ids {
  readonly #keys = new KeyTable()
  #whole: Set<string> | undefined

  /** False: an entry with this id is there. */
  add(id: string, entries: readonly SourceEntry[]): boolean {
    if (!this.#whole && this.#keys.add(keyOfId(id))) return true
    this.#whole ??= new Set(entries.map((entry) => entry.id))
    const size = this.#whole.size
    return this.#whole.add(id).size > size
  }
}

/** True for a relative path that stays below its root. */
export function isInnerPath(path: string): boolean {
  if (path.startsWith('/') || path.includes('\0')) return false
  return !path.includes('..') || !path.split('/').includes('..')
}

/** What the record of a file says. */
interface FileRecord {
  size: number | null
  modifiedAt: Date | null
  createdAt: Date | null
  target: string | null
  key: Uint8Array | null
}

// A record that cannot be read leaves these unknown; id, domain and path stand in columns of their own. The key is one that
// opens nothing: without it an encrypted content would be handed out as it lies there.
const UNKNOWN: FileRecord = { size: null, modifiedAt: null, createdAt: null, target: null, key: new Uint8Array() }

/**
 * An entry whose record is parsed when it is asked for: most of a hundred thousand files are listed and never looked at.
 */
class ManifestEntry implements SourceEntry {
  #record: FileRecord | undefined

  constructor(
    readonly domain: string,
    readonly path: string,
    readonly kind: SourceEntry['kind'],
    readonly id: string,
    readonly files: Files,
    readonly location: number,
  ) {}

  get size() {
    return this.kind === 'file' ? this.#parsed().size : 0
  }
  get modifiedAt() {
    return this.#parsed().modifiedAt
  }
  get createdAt() {
    return this.#parsed().createdAt
  }
  get target() {
    return this.#parsed().target
  }
  get key() {
    return this.#parsed().key
  }

  #parsed(): FileRecord {
    this.#record ??= recordOf(this.files, this.location)
    return this.#record
  }
}

function recordOf(files: Files, location: number): FileRecord {
  try {
    const blob = files.recordAt(location)
    const record = blob && unarchive(blob)
    if (!isDict(record)) return UNKNOWN
    const size = Number(record.Size ?? 0)
    return {
      size: Number.isSafeInteger(size) && size >= 0 ? size : null,
      modifiedAt: fromUnix(record.LastModified),
      createdAt: fromUnix(record.Birth),
      target: typeof record.Target === 'string' ? record.Target : null,
      key: keyOf(record.EncryptionKey),
    }
  } catch (thrown) {
    if (thrown instanceof FormatError) return UNKNOWN
    throw thrown
  }
}

const keyOf = (value: PlistValue | undefined): Uint8Array | null =>
  value instanceof Uint8Array ? Uint8Array.from(value) : null
