import type { SourceEntry, SourceTree } from '../backup/types.js'
import { FormatError, messageOf, type Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { Database } from '../sqlite/database.js'
import type { Place, Row } from '../sqlite/values.js'
import type { Origin } from './types.js'

/** A place where a store may lie; it moved between system versions. */
export interface StorePlace {
  domain: string
  path: string
}

/** A category's store, open for reading. */
export interface OpenStore {
  entry: SourceEntry
  database: Database
  close(): Promise<void>
}

/**
 * Opens the first of the places that the source lists. Undefined: none is there, or what is there is no
 * database, which is reported.
 */
export async function openStore(
  tree: SourceTree,
  places: readonly StorePlace[],
  report: Report,
): Promise<OpenStore | undefined> {
  const entry = places.map((place) => tree.find(place.domain, place.path)).find((found) => found?.kind === 'file')
  if (!entry) return undefined
  const source = await tree.open(entry)
  if (!source) {
    report({
      code: 'content-missing',
      message: `${entry.path} is listed, but its content is not in the source.`,
      path: entry.path,
    })
    return undefined
  }
  return openDatabase(source, entry, report)
}

async function openDatabase(source: ByteSource, entry: SourceEntry, report: Report): Promise<OpenStore | undefined> {
  try {
    const database = await Database.open(source, (warning) => report({ ...warning, path: entry.path }))
    return { entry, database, close: () => source.close() }
  } catch (thrown) {
    await source.close()
    if (!(thrown instanceof FormatError)) throw thrown
    report({
      code: 'store-damaged',
      message: `${entry.path} cannot be read: ${messageOf(thrown)}. Nothing of it is shown.`,
      path: entry.path,
    })
    return undefined
  }
}

/** The provenance of a row in a store. */
export function originOf(store: OpenStore, row: Row): Origin {
  const { kind, page, offset }: Place = row.place
  const rowid = typeof row.rowid === 'bigint' ? String(row.rowid) : row.rowid
  return { domain: store.entry.domain, path: store.entry.path, table: row.table, rowid, place: kind, page, offset }
}
