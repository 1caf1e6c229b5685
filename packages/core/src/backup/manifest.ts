import { FormatError, type Report, SourceError } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { openDatabase } from '../sqlite/open.js'
import { KeyTable } from '../sqlite/residue/compare/key-table.js'
import type { EntryList } from './entry-list.js'
import { ManifestRows } from './manifest-rows.js'
import type { SourceEntry } from './types.js'

// A backup of a full phone lists some hundred thousand files; far beyond that the list is made up.
const MAX_ENTRIES = 5_000_000

/**
 * Reads the file list of a modern backup (Manifest.db, table Files). Entries with impossible ids or paths that
 * would leave their folder are reported and left out. Rows are checked here, and entries made of them when they are
 * asked for; what a record tells beyond id and place is unknown where it cannot be read any more. A copy that was made
 * while the manifest was in use has its newest rows in a write-ahead log, `wal`.
 * @throws FormatError when the manifest is no database
 */
export function readManifest(main: ByteSource, report: Report, wal?: ByteSource): EntryList {
  const { database } = openDatabase({ main, wal }, (warning) => report({ ...warning, path: 'Manifest.db' }))
  const table = database.tables.get('Files')
  const entries = new ManifestEntries(table && new ManifestRows(database, table))
  if (!table) report({ code: 'manifest-damaged', message: 'The manifest has no list of files.', path: 'Manifest.db' })
  else for (const { payload, location } of database.payloads(table)) entries.add(payload, location)
  if (entries.refused > 0)
    report({
      code: 'entries-refused',
      message: `${entries.refused} entries of the manifest are damaged, doubled or lead outside the backup; they are left out.`,
      path: 'Manifest.db',
    })
  return entries
}

const FIRST_ROOM = 1 << 12

/** Rows of a manifest by where they lie; entries are made of those that are asked for. */
class ManifestEntries implements EntryList {
  count = 0
  refused = 0
  #locations = new Float64Array(FIRST_ROOM)
  /** By entry: its domain's number. */
  #domains = new Uint32Array(FIRST_ROOM)
  readonly #numbers = new Map<string, number>()
  readonly #keys = new KeyTable()
  /** Once two ids agreed in their keys. */
  #ids: Set<string> | undefined
  readonly #made: (SourceEntry | undefined)[] = []

  constructor(readonly rows: ManifestRows | undefined) {}

  add(payload: Uint8Array, location: number): void {
    const mark = this.rows?.markOf(payload)
    if (!mark || this.count >= MAX_ENTRIES || !this.#isNew(mark.idKey, location)) {
      this.refused++
      return
    }
    if (this.count === this.#locations.length) this.#grow()
    this.#locations[this.count] = location
    this.#domains[this.count++] = this.#numberOf(mark.domain)
  }

  /** Keys of ids are never the same by chance: only when two are, the ids are compared whole. */
  #isNew(idKey: number, location: number): boolean {
    if (!this.#ids && this.#keys.add(idKey)) return true
    const rows = this.rows as ManifestRows
    this.#ids ??= new Set(Array.from(this.#locations.subarray(0, this.count), (one) => rows.idAt(one)))
    const before = this.#ids.size
    return this.#ids.add(rows.idAt(location)).size > before
  }

  #numberOf(domain: string): number {
    const known = this.#numbers.get(domain)
    if (known !== undefined) return known
    this.#numbers.set(domain, this.#numbers.size)
    return this.#numbers.size - 1
  }

  #grow(): void {
    const locations = new Float64Array(2 * this.count)
    const domains = new Uint32Array(2 * this.count)
    locations.set(this.#locations)
    domains.set(this.#domains)
    this.#locations = locations
    this.#domains = domains
  }

  all(): SourceEntry[] {
    return Array.from({ length: this.count }, (_, i) => this.#entry(i))
  }

  of(domain: string): SourceEntry[] {
    const number = this.#numbers.get(domain)
    const entries: SourceEntry[] = []
    for (let i = 0; number !== undefined && i < this.count; i++)
      if (this.#domains[i] === number) entries.push(this.#entry(i))
    return entries
  }

  #entry(index: number): SourceEntry {
    const known = this.#made[index]
    if (known) return known
    try {
      const made = (this.rows as ManifestRows).entryAt(this.#locations[index] as number)
      this.#made[index] = made
      return made
    } catch (thrown) {
      if (!(thrown instanceof FormatError)) throw thrown
      throw new SourceError(
        'not-readable',
        `The backup's list of files cannot be read any more: ${thrown.message}. Nothing was lost; open the source again.`,
        { cause: thrown },
      )
    }
  }
}
