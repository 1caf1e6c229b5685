import type { SourceEntry, SourceTree } from '../backup/types.js'
import { FormatError, messageOf, type Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { type DatabaseFiles, type OpenedDatabase, openDatabase } from '../sqlite/open.js'
import type { Place, Row } from '../sqlite/values.js'
import type { Origin, StorePlace } from './types.js'

/** A category's store, open for reading. */
export interface OpenStore extends OpenedDatabase {
  entry: SourceEntry
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
  const main = await tree.open(entry)
  if (!main) {
    report({
      code: 'content-missing',
      message: `${entry.path} is listed, but its content is not in the source.`,
      path: entry.path,
    })
    return undefined
  }
  return openFiles(
    { main, wal: await sibling(tree, entry, '-wal'), journal: await sibling(tree, entry, '-journal') },
    entry,
    report,
  )
}

async function sibling(tree: SourceTree, entry: SourceEntry, ending: string): Promise<ByteSource | undefined> {
  const found = tree.find(entry.domain, `${entry.path}${ending}`)
  return found && tree.open(found)
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

/** True for the databases at these places, and for the logs that belong to them. */
export const isStore = (places: readonly StorePlace[], { domain, path }: SourceEntry): boolean =>
  places.some(
    (place) =>
      place.domain === domain && (path === place.path || SIBLINGS.some((end) => path === `${place.path}${end}`)),
  )

const SIBLINGS = ['-wal', '-shm', '-journal']

/** The provenance of a row in a store. */
export function originOf(store: OpenStore, row: Row): Origin {
  const { kind, page, offset }: Place = row.place
  const rowid = typeof row.rowid === 'bigint' ? String(row.rowid) : row.rowid
  return { domain: store.entry.domain, path: store.entry.path, table: row.table, rowid, place: kind, page, offset }
}
