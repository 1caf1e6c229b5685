import { rebuildRows } from '../sqlite/residue/rebuild.js'
import { numberValue, type Row, type SqlValue } from '../sqlite/values.js'
import { daysLeft } from './bin.js'
import { ContactNames } from './contacts/names.js'
import { type OpenStore, openEntry, originOf, requireTable } from './open.js'
import { isStore, storesOf } from './places.js'
import type { CategoryId, DefinedCategory } from './registry.js'
import type { Category, Condition, ContentRef, Json, ReadContext, Sighting, StorePlace } from './types.js'

/** What a category makes of one row of its main table. */
export interface Mapped {
  when: Date | null
  title: string
  text: string | null
  fields: { [key: string]: Json }
  content?: ContentRef | null
  /** Of a live row that lies in a bin: when it was put there; null where that is not known. */
  binnedAt?: Date | null
  /** A live row that the owner does not see: the system marked it deleted. */
  gone?: boolean
  /** Every value that makes it worth having is there. */
  whole: boolean
}

/** How a category that lives in the rows of a database is read. */
export interface RowCategory extends DefinedCategory {
  fields: Category['fields']
  stores: readonly StorePlace[]
  /** The tables whose rows are the items; the first that a store has is read. */
  tables: readonly string[]
  /** Undefined: this row is no item. */
  map(row: Row, rows: StoreRows): Mapped | undefined | Promise<Mapped | undefined>
  identity(sighting: Sighting): string
  likeness?: NonNullable<Category['likeness']>
  /** Files beside the databases that belong to it. */
  alsoHolds?: Category['holds']
}

/** A category whose items are rows: live and rebuilt ones go through the same mapper. */
export function rowCategory(spec: RowCategory): Category {
  const { stores, alsoHolds, tables: _tables, map: _map, ...category } = spec
  return {
    ...category,
    stores,
    holds: (entry) => isStore(stores, entry) || (alsoHolds?.(entry) ?? false),
    read: (context) => readRows(spec, context),
  }
}

async function* readRows(spec: RowCategory, context: ReadContext): AsyncGenerator<Sighting> {
  for (const entry of storesOf(context.tree, spec.stores)) {
    const store = await openEntry(context.tree, entry, context.report)
    if (!store) continue
    try {
      yield* readStore(spec, store, context)
    } finally {
      await store.close()
    }
  }
}

async function* readStore(spec: RowCategory, store: OpenStore, context: ReadContext): AsyncGenerator<Sighting> {
  const table = requireTable(store, spec.tables, context.report)
  if (!table) return
  const rebuilt = context.pass === 'live' ? [] : [...rebuildRows(store)]
  const rows = new StoreRows(store, rebuilt, context)
  const items = context.pass === 'live' ? store.database.rows(table) : deletedItems(rebuilt, table)
  for (const row of items) {
    const mapped = await spec.map(row, rows)
    if (mapped) yield sightingOf(spec.id, row, mapped, store, context)
  }
}

/** Deleted rows of the items' table; whole ones first, so that what is left of an older version adds nothing. */
export function deletedItems(rebuilt: readonly Row[], table: string): Row[] {
  const deleted = rebuilt.filter((row) => row.table === table && row.standing !== 'superseded')
  return [...deleted.filter((row) => row.missing.length === 0), ...deleted.filter((row) => row.missing.length > 0)]
}

/** A mapped row as a sighting. */
export function sightingOf(
  category: CategoryId,
  row: Row,
  mapped: Mapped,
  store: OpenStore,
  context: ReadContext,
): Sighting {
  const { when, title, text, fields, content = null, binnedAt } = mapped
  const bin =
    binnedAt === undefined
      ? {}
      : { binnedAt: binnedAt?.toISOString() ?? null, daysLeft: daysLeft(binnedAt, context.tree.info.takenAt) }
  return {
    category,
    condition: conditionOf(row, mapped),
    when: when?.toISOString() ?? null,
    title,
    text,
    fields: { ...fields, ...bin },
    content,
    origin: originOf(store, row),
    missing: row.missing,
    confidence: row.confidence,
  }
}

function conditionOf(row: Row, { binnedAt, gone, whole }: Mapped): Condition {
  if (row.standing === 'live' && !gone) return binnedAt === undefined ? 'live' : 'binned'
  return whole ? 'rebuilt' : 'partial'
}

/** The rows around an item, of any table of its store: live ones, and in the residue pass rebuilt ones behind them. */
export class StoreRows {
  readonly #byId = new Map<string, Map<number, Row>>()
  readonly #groups = new Map<string, Map<SqlValue, Row[]>>()
  #names: Promise<ContactNames> | undefined

  constructor(
    readonly store: OpenStore,
    readonly rebuilt: readonly Row[],
    readonly context: ReadContext,
  ) {}

  /** The row of a table with this rowid. */
  byId(table: string, id: number | null): Row | undefined {
    if (id === null) return undefined
    let known = this.#byId.get(table)
    if (!known) {
      known = new Map()
      for (const row of this.#all(table)) {
        const rowid = numberValue(row.rowid)
        if (rowid !== null && !known.has(rowid)) known.set(rowid, row)
      }
      this.#byId.set(table, known)
    }
    return known.get(id)
  }

  /** All rows of a table that have this value in a column. */
  having(table: string, column: string, value: SqlValue): Row[] {
    if (value === null) return []
    const key = `${table}\0${column}`
    let known = this.#groups.get(key)
    if (!known) {
      known = new Map()
      for (const row of this.#all(table)) {
        const own = row.values[column]
        if (own === undefined || own === null) continue
        const group = known.get(own)
        if (group) group.push(row)
        else known.set(own, [row])
      }
      this.#groups.set(key, known)
    }
    return known.get(value) ?? []
  }

  /** Names of people by their addresses. `region`: as in `ContactNames.load`; that of the first call counts. */
  names(region: string | null): Promise<ContactNames> {
    this.#names ??= ContactNames.load(this.context.tree, region)
    return this.#names
  }

  *#all(table: string): Generator<Row> {
    yield* this.store.database.rows(table)
    for (const row of this.rebuilt) if (row.table === table && row.standing !== 'superseded') yield row
  }
}

/** The first of the columns that holds something: their names changed with the versions. */
export function firstValue(row: Row | undefined, ...columns: string[]): SqlValue | undefined {
  for (const column of columns) {
    const value = row?.values[column]
    if (value !== undefined && value !== null) return value
  }
  return undefined
}
