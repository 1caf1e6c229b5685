import { openStore } from '@lumbrin/core/categories/open'
import { USE } from '@lumbrin/core/sqlite/catalogue'
import { DatabaseLook, type PageLook, type RowLook } from '@lumbrin/core/sqlite/residue/look'
import type { SqlValue } from '@lumbrin/core/sqlite/values'
import type { Db } from '../database/connection.js'
import type { PageMap, PageView, RowView } from '../domain/contents.js'
import { AppError } from '../domain/errors.js'
import type { SourceId } from '../domain/ids.js'
import { treeOf } from './trees.js'

/** Which database of which source is looked into. */
export interface DatabasePlace {
  sourceId: SourceId
  domain: string
  path: string
}

interface OpenLook {
  look: DatabaseLook
  close: () => Promise<void>
}

// To open one means to walk all of its pages, so the last two stay open.
const MAX_OPEN = 2
const open = new Map<string, Promise<OpenLook>>()

/** The map of a database's pages. @throws AppError where there is no such database */
export async function pageMap(db: Db, place: DatabasePlace): Promise<PageMap> {
  const { look } = await lookInto(db, place)
  const { use } = look.catalogue
  const counts: Record<string, number> = {}
  for (const [name, value] of Object.entries(USE)) {
    let count = 0
    for (let page = 1; page < use.length; page++) if (use[page] === value) count++
    if (count > 0) counts[name] = count
  }
  return { pageSize: look.pageSize, pageCount: look.pageCount, uses: use.subarray(1).join(''), counts }
}

/** One page. @throws AppError where there is none */
export async function pageView(
  db: Db,
  place: DatabasePlace,
  page: number,
  at?: { file: PageLook['file']; offset: number },
): Promise<PageView> {
  const { look } = await lookInto(db, place)
  const found = look.page(page, at)
  if (!found) throw new AppError('not-found', `There is no page ${page} here.`)
  return { ...found, bytes: Buffer.from(found.bytes).toString('base64'), rows: found.rows.map(rowView) }
}

const rowView = (row: RowLook): RowView => ({
  ...row,
  rowid: row.rowid === null ? null : String(row.rowid),
  columns: row.columns.map((column) => ({ ...column, value: valueText(column.value) })),
})

const LONGEST = 200

function valueText(value: SqlValue | undefined): string | null {
  if (value === undefined) return null
  if (value instanceof Uint8Array) return `${value.length} bytes`
  const text = value === null ? 'NULL' : String(value)
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text
}

function lookInto(db: Db, place: DatabasePlace): Promise<OpenLook> {
  const key = JSON.stringify([place.sourceId, place.domain, place.path])
  const known = open.get(key)
  if (known) return known
  const opening = openLook(db, place)
  open.set(key, opening)
  opening.catch(() => open.delete(key))
  for (const [other, look] of open) {
    if (open.size <= MAX_OPEN) break
    open.delete(other)
    look.then((old) => old.close()).catch(() => {})
  }
  return opening
}

async function openLook(db: Db, { sourceId, domain, path }: DatabasePlace): Promise<OpenLook> {
  const tree = await treeOf(db, sourceId)
  const store = await openStore(tree, [{ domain, path }], () => {})
  if (!store) throw new AppError('not-found', `"${path}" is not in this source, or is no database.`)
  return { look: new DatabaseLook(store), close: store.close }
}
