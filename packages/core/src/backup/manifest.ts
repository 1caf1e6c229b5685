import { FormatError, type Report } from '../io/errors.js'
import { digest } from '../io/hash.js'
import type { ByteSource } from '../io/source.js'
import { fromUnix } from '../io/time.js'
import { unarchive } from '../plist/keyed.js'
import { isDict, type PlistValue } from '../plist/read.js'
import { Database } from '../sqlite/database.js'
import { RecordView } from '../sqlite/record.js'
import type { SqlValue } from '../sqlite/values.js'
import { Arena, type Kept } from './arena.js'
import type { SourceEntry } from './types.js'

const KINDS = { 1: 'file', 2: 'directory', 4: 'link' } as const

// A backup of a full phone lists some hundred thousand files; far beyond that the list is made up.
const MAX_ENTRIES = 5_000_000

/** The name of a file's content in a backup: SHA-1 of domain, hyphen and path, in UTF-8 as stored. */
export const fileIdOf = (domain: string, path: string): string => digest('sha1', `${domain}-${path}`)

/**
 * Reads the file list of a modern backup (Manifest.db, table Files). Entries with impossible ids or paths that
 * would leave their folder are reported and left out.
 * @throws FormatError when the manifest is no database
 */
export function readManifest(source: ByteSource, report: Report): SourceEntry[] {
  const database = Database.open(source, (warning) => report({ ...warning, path: 'Manifest.db' }))
  if (!database.tables.has('Files'))
    report({ code: 'manifest-damaged', message: 'The manifest has no list of files.', path: 'Manifest.db' })
  const entries: SourceEntry[] = []
  const records = new Arena()
  const seen = new Set<string>()
  let refused = 0
  for (const file of filesOf(database)) {
    const entry = entryOf(file, records)
    const fresh = entry && !seen.has(entry.id)
    if (fresh && entries.length < MAX_ENTRIES) {
      seen.add(entry.id)
      entries.push(entry)
    } else refused++
  }
  if (refused > 0)
    report({
      code: 'entries-refused',
      message: `${refused} entries of the manifest are damaged, doubled or lead outside the backup; they are left out.`,
      path: 'Manifest.db',
    })
  return entries
}

interface FileRow {
  columns: (SqlValue | undefined)[]
  /** The record, where it lies in the database. */
  record: Uint8Array | undefined
}

const COLUMNS = ['fileID', 'domain', 'relativePath', 'flags']

/** Every file's columns, in the order above: a walk without a row object for each of some hundred thousand. */
function* filesOf(database: Database): Generator<FileRow> {
  const table = database.tables.get('Files')
  if (!table) return
  const view = new RecordView(database.pager.header.encoding)
  const positionOf = (name: string) => table.storedPosition[table.columns.findIndex((one) => one.name === name)] ?? -1
  const positions = COLUMNS.map(positionOf)
  const record = positionOf('file')
  for (const payload of database.payloads(table)) {
    if (!view.tryOpen(payload)) {
      yield { columns: [], record: undefined }
      continue
    }
    const valueAt = (position: number) => (position >= 0 && position < view.count ? view.value(position) : undefined)
    yield { columns: positions.map(valueAt), record: record < 0 ? undefined : view.blob(record) }
  }
}

function entryOf({ columns, record }: FileRow, records: Arena): SourceEntry | undefined {
  const [id, domain, path, flags] = columns
  if (typeof id !== 'string' || typeof domain !== 'string' || typeof path !== 'string') return undefined
  if (!/^[0-9a-f]{40}$/.test(id) || !isInnerPath(path)) return undefined
  const kind = KINDS[flags as keyof typeof KINDS]
  if (!kind) return undefined
  return new ManifestEntry(domain, path, kind, id, record && records.keep(record))
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

// A record that cannot be parsed leaves these unknown; id, domain and path stand in columns of their own.
const UNKNOWN: FileRecord = { size: null, modifiedAt: null, createdAt: null, target: null, key: null }

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
    readonly kept: Kept | undefined,
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
    this.#record ??= this.kept ? recordOf(this.kept.arena.bytes(this.kept)) : UNKNOWN
    return this.#record
  }
}

function recordOf(blob: Uint8Array): FileRecord {
  try {
    const record = unarchive(blob)
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
