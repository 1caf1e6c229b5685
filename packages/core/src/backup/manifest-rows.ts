import { FormatError } from '../io/errors.js'
import { fromUnix } from '../io/time.js'
import { unarchive } from '../plist/keyed.js'
import { isDict, type PlistValue } from '../plist/read.js'
import type { Database, Table } from '../sqlite/database.js'
import { RecordView } from '../sqlite/record.js'
import type { SqlValue } from '../sqlite/values.js'
import { isInnerPath, keyOfId } from './manifest-values.js'
import type { SourceEntry } from './types.js'

const KINDS: ReadonlyMap<unknown, SourceEntry['kind']> = new Map([
  [1, 'file'],
  [2, 'directory'],
  [4, 'link'],
])

/** What a row is told apart by, without any of its values being made. */
export interface RowMark {
  domain: string
  idKey: number
}

/** The table of files: its rows are read again one by one when their entries are asked for. */
export class ManifestRows {
  readonly #view: RecordView
  readonly #mark: RowMark = { domain: '', idKey: 0 }
  readonly #id: number
  readonly #domain: number
  readonly #path: number
  readonly #flags: number
  readonly #record: number
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

  /** Checks a row; the mark is the same object for every one. Undefined: it is damaged, or leads outside the backup. */
  markOf(payload: Uint8Array): RowMark | undefined {
    if (!this.#view.tryOpen(payload)) return undefined
    if (!this.#turnToDomain() || !KINDS.has(this.#valueAt(this.#flags))) return undefined
    const idKey = this.#view.withText(this.#id, keyOfId)
    if (idKey === undefined || idKey < 0 || !this.#view.withText(this.#path, isInnerPath)) return undefined
    this.#mark.idKey = idKey
    return this.#mark
  }

  /** Most files are of the domain of the one before; its name is made once for all of them. */
  #turnToDomain(): boolean {
    const bytes = this.#view.textBytes(this.#domain, this.#lastBytes)
    if (!bytes) return false
    if (bytes !== this.#lastBytes) {
      this.#lastBytes = bytes
      this.#mark.domain = String(this.#valueAt(this.#domain))
    }
    return true
  }

  /** The entry of a row that was checked. @throws FormatError when the row cannot be had any more */
  entryAt(location: number): ManifestEntry {
    this.#view.open(this.database.payloadAt(location))
    const kind = KINDS.get(this.#valueAt(this.#flags))
    if (!this.#turnToDomain() || !kind) throw new FormatError('bad-value', 0, 'the list of files was changed')
    const path = String(this.#valueAt(this.#path))
    return new ManifestEntry(this.#mark.domain, path, kind, String(this.#valueAt(this.#id)), this, location)
  }

  /** The id of a row that was checked. @throws FormatError when the row cannot be had any more */
  idAt(location: number): string {
    this.#view.open(this.database.payloadAt(location))
    return String(this.#valueAt(this.#id))
  }

  recordAt(location: number): Uint8Array | undefined {
    const opened = this.#record >= 0 && this.#view.tryOpen(this.database.payloadAt(location))
    return opened ? this.#view.blob(this.#record) : undefined
  }

  #valueAt(position: number): SqlValue | undefined {
    return position >= 0 && position < this.#view.count ? this.#view.value(position) : undefined
  }
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
    readonly rows: ManifestRows,
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
    this.#record ??= recordOf(this.rows, this.location)
    return this.#record
  }
}

function recordOf(rows: ManifestRows, location: number): FileRecord {
  try {
    const blob = rows.recordAt(location)
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
