import { readEntry } from '../backup/open.js'
import type { SourceEntry, SourceTree } from '../backup/types.js'
import { FormatError, messageOf, type Report, type Warning } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { type PlistValue, parsePlist } from '../plist/read.js'
import { type DatabaseFiles, type OpenedDatabase, openDatabase } from '../sqlite/open.js'
import type { Place, Row } from '../sqlite/values.js'
import { storesOf } from './places.js'
import type { Origin, StorePlace } from './types.js'

/** A category's store, open for reading. */
export interface OpenStore extends OpenedDatabase {
  entry: SourceEntry
  close(): Promise<void>
}

/** Opens the first database of these places. Undefined: none is there, or what is there is none, which is reported. */
export async function openStore(
  tree: SourceTree,
  places: readonly StorePlace[],
  report: Report,
): Promise<OpenStore | undefined> {
  const [entry] = storesOf(tree, places)
  return entry && openEntry(tree, entry, report)
}

/** Opens a file of the source as a database. Undefined: it is none, or is not there, which is reported. */
export async function openEntry(tree: SourceTree, entry: SourceEntry, report: Report): Promise<OpenStore | undefined> {
  let refused = false
  const main = await openIfReadable(tree, entry, (warning) => {
    refused = true
    report({ ...warning, code: 'store-damaged' })
  })
  if (main) {
    const wal = await sibling(tree, entry, '-wal', report)
    return openFiles({ main, wal, journal: await sibling(tree, entry, '-journal', report) }, entry, report)
  }
  if (!refused)
    report({
      code: 'content-missing',
      message: `${entry.path} is listed, but its content is not in the source.`,
      path: entry.path,
    })
  return undefined
}

/** A file of a source. Undefined: it is not there, or the system does not give it out, which is reported. */
export async function openIfReadable(
  tree: SourceTree,
  entry: SourceEntry,
  report: Report,
): Promise<ByteSource | undefined> {
  try {
    return await tree.open(entry)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    report(unreadable(entry, thrown))
    return undefined
  }
}

/**
 * What `use` makes of a file of a source. Undefined: the file is not there, or cannot be read to its end, which is reported.
 */
export async function useFile<T>(
  tree: SourceTree,
  entry: SourceEntry,
  report: Report,
  use: (source: ByteSource) => Promise<T>,
): Promise<T | undefined> {
  const source = await openIfReadable(tree, entry, report)
  if (!source) return undefined
  try {
    return await use(source)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    report(unreadable(entry, thrown))
    return undefined
  } finally {
    await source.close()
  }
}

const unreadable = ({ path }: SourceEntry, thrown: FormatError): Warning => ({
  code: 'file-unreadable',
  message: `${path} cannot be read: ${messageOf(thrown)}.`,
  path,
})

/** What lies beside a database. Without its log the newest rows are missing, which is said of the database. */
function sibling(
  tree: SourceTree,
  { domain, path }: SourceEntry,
  ending: string,
  report: Report,
): Promise<ByteSource | undefined> {
  const found = tree.find(domain, `${path}${ending}`)
  const ofStore: Report = (warning) => report({ ...warning, code: 'wal-unfit', path })
  return found ? openIfReadable(tree, found, ofStore) : Promise.resolve(undefined)
}

async function openFiles(files: DatabaseFiles, entry: SourceEntry, report: Report): Promise<OpenStore | undefined> {
  const close = async () => {
    await Promise.all([files.main.close(), files.wal?.close(), files.journal?.close()])
  }
  try {
    const opened = openDatabase(files, (warning) => report({ ...warning, path: entry.path }))
    return { entry, ...opened, close }
  } catch (thrown) {
    await close()
    if (!(thrown instanceof FormatError)) throw thrown
    report({
      code: 'store-damaged',
      message: `${entry.path} cannot be read: ${messageOf(thrown)}. Nothing of it is shown.`,
      path: entry.path,
    })
    return undefined
  }
}

/** The first of these tables that a store has. Undefined: it has none, which is reported. */
export function requireTable(store: OpenStore, names: readonly string[], report: Report): string | undefined {
  const table = names.find((name) => store.database.tables.has(name))
  if (table === undefined)
    report({
      code: 'store-unknown',
      message: `${store.entry.path} is of a generation that is not known: it has none of the tables ${names.join(', ')}.`,
      path: store.entry.path,
    })
  return table
}

/** The provenance of a row in a store. */
export function originOf(store: OpenStore, row: Row): Origin {
  const { kind, page, offset }: Place = row.place
  const rowid = typeof row.rowid === 'bigint' ? String(row.rowid) : row.rowid
  const { domain, path } = store.entry
  const reasons = row.reasons ? { reasons: row.reasons } : {}
  return { domain, path, table: row.table, rowid, place: kind, page, offset, ...reasons }
}

/** The provenance of something that is a file of its own. */
export const fileOrigin = ({ domain, path }: StorePlace, table: string | null = null): Origin => ({
  domain,
  path,
  table,
  rowid: null,
  place: 'file',
  page: null,
  offset: null,
})

const MOST_LIST_BYTES = 16 << 20

/** What a property list of the source holds. Undefined: it cannot be read, which is reported. */
export async function listIn(tree: SourceTree, entry: SourceEntry, report: Report): Promise<PlistValue | undefined> {
  try {
    const bytes = await readEntry(tree, entry, MOST_LIST_BYTES)
    return bytes && parsePlist(bytes)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    report({ code: 'store-damaged', message: `${entry.path} cannot be read: ${messageOf(thrown)}.`, path: entry.path })
    return undefined
  }
}
