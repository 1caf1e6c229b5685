import type { Report } from '../../io/errors.js'
import { type Catalogue, catalogueOf } from '../catalogue.js'
import type { Database, Table } from '../database.js'
import type { OpenedDatabase } from '../open.js'
import type { Place, Row, RowStanding, SqlValue } from '../values.js'
import { type Format, formatFor } from './candidate.js'
import { type Decoded, decode } from './decode.js'
import { droppedTables, type SchemaRow } from './dropped.js'
import { judge, sameValue, type Verdict } from './identity.js'
import { pageImages, type Siblings } from './images.js'
import { columnKeys, KeySet, rowKey } from './keys.js'
import { LiveRows } from './live.js'
import { type Located, recordsOfPage } from './page.js'
import { type Profile, profilesOf } from './profile.js'

/**
 * Every row version that the database does not show any more and whose bytes are still there: from pages it has given
 * up, from the space between its cells, from its write-ahead log and its rollback journal. Each version comes once;
 * copies of live rows do not come at all.
 */
export function* rebuildRows({ database, siblings }: OpenedDatabase, report: Report): Generator<Row> {
  const catalogue = catalogueOf(database)
  const dropped = droppedTables(database, catalogue, siblings)
  for (const row of dropped) yield row.row
  const profiles = profilesOf(
    database,
    catalogue,
    dropped.map((row: SchemaRow) => row.table),
  )
  yield* new Rebuilder(database, catalogue, siblings, profiles, report).rows()
}

/** Stands for a dropped table of which nothing but rows is left. */
const NO_TABLE: Table = {
  name: '',
  root: 0,
  columns: [],
  withoutRowid: false,
  rowidColumn: -1,
  primaryKey: [],
  storedOrder: [],
  storedPosition: [],
}

interface Waiting {
  row: Row
  table: Table
  values: readonly (SqlValue | undefined)[]
  whole: boolean
}

// Rows that can only be judged at the end are kept until then; so many fill some 200 MB.
const MOST_WAITING = 400_000

class Rebuilder {
  readonly #format: Format
  readonly #live: LiveRows
  readonly #seen = new Set<number>()
  /** Values without rowid of all rows that were told. */
  readonly #bodies = new Set<number>()
  readonly #rowids = new Set<number>()
  readonly #columns = new KeySet()
  readonly #waiting = new Map<Table, Waiting[]>()
  #waitingCount = 0
  readonly #claiming: { located: Located; decoded: Decoded }[] = []
  /** Which row lays claim to an overflow page. */
  readonly #claims = new Map<number, number>()
  readonly #disputed = new Set<number>()

  constructor(
    readonly database: Database,
    readonly catalogue: Catalogue,
    readonly siblings: Siblings,
    profiles: readonly Profile[],
    readonly report: Report,
  ) {
    this.#format = formatFor(database.pager.header, database.pager.pageCount, profiles)
    this.#live = new LiveRows(database, catalogue)
  }

  *rows(): Generator<Row> {
    for (const image of pageImages(this.database, this.catalogue, this.siblings))
      for (const located of recordsOfPage(image, this.#format)) {
        const decoded = decode(this.database, this.catalogue, located)
        const row = decoded.pages.length > 0 ? this.#claim(located, decoded) : this.#take(located, decoded)
        if (row) yield row
      }
    for (const { located, decoded } of this.#claiming) {
      const disputed = decoded.pages.some((page) => this.#disputed.has(page))
      const row = this.#take(located, disputed ? withoutOverflow(decoded) : decoded)
      if (row) yield row
    }
    for (const [table, waiting] of this.#waiting) yield* this.#judged(table, waiting)
  }

  /**
   * Rows with overflow pages wait until it is known whether another row lays claim to the same page: it was used twice
   * then, and whose content stands on it cannot be told.
   */
  #claim(located: Located, decoded: Decoded): undefined {
    const key = rowKey('', decoded.values, located.candidate.rowid)
    for (const page of decoded.pages) {
      const other = this.#claims.get(page)
      if (other !== undefined && other !== key) this.#disputed.add(page)
      this.#claims.set(page, key)
    }
    this.#claiming.push({ located: { ...located, image: { ...located.image, bytes: NO_BYTES } }, decoded })
  }

  /** A row that can be told at once; undefined: it is none, or it waits. */
  #take(located: Located, decoded: Decoded): Row | undefined {
    const table = (located.table ?? located.candidate.fits[0]?.profile)?.table ?? NO_TABLE
    const saysNothing = !decoded.values.some((value) => value !== undefined && value !== null)
    if (saysNothing || table.name.startsWith('sqlite_')) return undefined
    const { rowid } = located.candidate
    const row = rowOf(located, table, decoded)
    const values = padded(table, decoded.values)
    const known = located.table ? !located.table.dropped : table === NO_TABLE
    if (rowid === null || !decoded.whole || !known) {
      this.#wait({ row, table, values, whole: decoded.whole })
      return undefined
    }
    if (!this.#isNew(table, values, rowid)) return undefined
    const live = this.#live.find(table, rowid)
    if (live && isSameRow(values, padded(table, live))) return undefined
    this.#remember(table, values, rowid)
    return { ...row, standing: live ? 'superseded' : 'deleted' }
  }

  #isNew(table: Table, values: readonly (SqlValue | undefined)[], rowid: number | bigint): boolean {
    const key = rowKey(table.name, values, rowid)
    if (this.#seen.has(key)) return false
    this.#seen.add(key)
    return true
  }

  #remember(table: Table, values: readonly (SqlValue | undefined)[], rowid: number | bigint | null): void {
    this.#bodies.add(rowKey(table.name, values))
    if (rowid !== null) this.#rowids.add(rowKey(table.name, [], rowid))
    for (const key of columnKeys(values)) this.#columns.add(key)
  }

  #wait(waiting: Waiting): void {
    if (++this.#waitingCount > MOST_WAITING) {
      if (this.#waitingCount === MOST_WAITING + 1)
        this.report({
          code: 'residue-limit',
          message: 'there are more leftovers of uncertain place than can be judged; some are left out',
        })
      return
    }
    const known = this.#waiting.get(waiting.table)
    if (known) known.push(waiting)
    else this.#waiting.set(waiting.table, [waiting])
  }

  /** Rows without a rowid, and rows that are not whole: told once all others are known. Whole ones come first. */
  *#judged(table: Table, waiting: Waiting[]): Generator<Row> {
    const sorted = [...waiting.filter((one) => one.whole), ...waiting.filter((one) => !one.whole)]
    const verdicts = judge(this.database, table, sorted)
    for (const [i, one] of sorted.entries()) {
      const standing = this.#standing(one, verdicts[i] as Verdict)
      if (!standing) continue
      this.#remember(table, one.values, one.row.rowid)
      yield { ...one.row, standing }
    }
  }

  /** Undefined: it is a copy of a row that is live or was told. */
  #standing({ row, table, values, whole }: Waiting, verdict: Verdict): RowStanding | undefined {
    if (verdict === 'equal') return undefined
    if (row.rowid !== null) {
      if (!whole && this.#rowids.has(rowKey(table.name, [], row.rowid))) return undefined
      const found = row.table === null ? undefined : this.#live.find(table, row.rowid)
      const live = found && padded(table, found)
      if (live && values.every((value, position) => value === undefined || sameValue(value, live[position])))
        return undefined
      if (whole && !this.#isNew(table, values, row.rowid)) return undefined
      return row.table === null ? 'unsure' : live ? 'superseded' : 'deleted'
    }
    const keys = columnKeys(values)
    if (!whole && (keys.length === 0 || keys.every((key) => this.#columns.has(key)))) return undefined
    if (whole && this.#bodies.has(rowKey(table.name, values))) return undefined
    return row.table === null ? 'unsure' : verdict
  }
}

const NO_BYTES = new Uint8Array()

/** What is left of a record whose overflow pages cannot be trusted. */
const withoutOverflow = (decoded: Decoded): Decoded => ({
  ...decoded,
  values: decoded.values.map((value, position) => (position < decoded.ownValues ? value : undefined)),
  whole: false,
})

/** A short record's values with what its later columns stand for. */
function padded<T extends SqlValue | undefined>(table: Table, values: readonly T[]): (T | SqlValue)[] {
  return [
    ...values,
    ...table.storedOrder.slice(values.length).map((index) => table.columns[index]?.defaultValue ?? null),
  ]
}

const isSameRow = (values: readonly (SqlValue | undefined)[], live: readonly SqlValue[]): boolean =>
  values.every((value, position) => value !== undefined && sameValue(value, live[position]))

function rowOf({ candidate, image, kind, table: profile }: Located, table: Table, decoded: Decoded): Row {
  const place: Place = { kind, page: image.page, offset: image.offset + candidate.start }
  const named = profile !== undefined && !profile.dropped
  const shared = {
    rowid: candidate.rowid,
    place,
    standing: 'unsure' as const,
    confidence: confidenceOf(candidate.bits, candidate.intact, decoded.whole, named),
  }
  if (!named) {
    const values = Object.fromEntries(
      decoded.values.flatMap((value, position) => (value === undefined ? [] : [[`c${position}`, value]])),
    )
    const missing = decoded.values.flatMap((value, position) => (value === undefined ? [`c${position}`] : []))
    return {
      table: null,
      values,
      missing,
      ...shared,
      candidates: profile ? [] : candidate.fits.map((fit) => fit.profile.table.name),
    }
  }
  const values: Record<string, SqlValue> = Object.create(null)
  const missing: string[] = []
  for (const [index, column] of table.columns.entries()) {
    const position = table.storedPosition[index] as number
    if (position < 0) continue
    const value =
      index === table.rowidColumn
        ? (candidate.rowid ?? undefined)
        : position < decoded.values.length
          ? decoded.values[position]
          : column.defaultValue
    if (value === undefined) missing.push(column.name)
    else values[column.name] = column.affinity === 'real' && typeof value === 'bigint' ? Number(value) : value
  }
  return { table: table.name, values, missing, ...shared }
}

/** From bits of evidence to a number that a person can read; a record named by its page's pointers is as good as live. */
function confidenceOf(bits: number, intact: boolean, whole: boolean, named: boolean): number {
  const sure = intact ? 0.99 : Math.min(0.97, 0.6 + bits / 200)
  return Math.round(sure * (whole ? 1 : 0.8) * (named ? 1 : 0.8) * 100) / 100
}
