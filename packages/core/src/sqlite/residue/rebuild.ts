import { type Catalogue, catalogueOf } from '../catalogue.js'
import type { Database, Table } from '../database.js'
import type { OpenedDatabase } from '../open.js'
import type { Place, Row, RowStanding, SqlValue } from '../values.js'
import { changedPositions } from './compare/changes.js'
import { IndexEntries } from './compare/index-entries.js'
import { judge } from './compare/judging.js'
import { KeyTable } from './compare/key-table.js'
import { BloomFilter, columnKeys, rowKey, valueKeys } from './compare/keys.js'
import { type Leftover, leftoverOf, padded, rowOf } from './compare/leftover.js'
import { LeftoverStore } from './compare/leftover-store.js'
import { LiveRows } from './compare/live.js'
import type { Judgement } from './compare/matcher.js'
import { droppedTables, type SchemaRow } from './dropped.js'
import { type Format, formatFor, sizeOf } from './evidence/candidate.js'
import { type Profile, profilesOf } from './evidence/profile.js'
import { NO_TABLE } from './evidence/unknown.js'
import { type Decoded, decode } from './scan/decode.js'
import { pageImages, type Siblings } from './scan/images.js'
import { type Located, recordsOfPage } from './scan/page.js'
import { trainedOnFreePages } from './scan/training.js'

/**
 * Every row version that the database does not show any more and whose bytes are still there: on freelist pages, in
 * freeblocks and unallocated space of other pages, in the write-ahead log and the rollback journal. Each version comes once;
 * copies of live rows do not come at all.
 */
export function* rebuildRows({ database, siblings }: OpenedDatabase): Generator<Row> {
  const catalogue = catalogueOf(database)
  const dropped = droppedTables(database, catalogue, siblings)
  for (const { row, table } of dropped) if (!table.now) yield row
  const profiles = profilesOf(
    database,
    catalogue,
    dropped.map((row: SchemaRow) => row.table),
  )
  yield* new Rebuilder(database, catalogue, siblings, profiles).rows()
}

/** A row on its way out, to which the other places of the same version are added as they are found. */
interface Emitted {
  leftover: Leftover
  standing: RowStanding
  changed: readonly number[] | undefined
  places: Place[]
}

// Bytes of rows that can only be judged by a walk over all live ones, and wait for it: it is made once for all of them, and
// again only where there are more. What is noted to compare them takes about as much.
const MOST_WAITING = 96e6
// So many rows are kept until all places of each are known; in larger finds the first place is named alone.
const MOST_HELD = 20_000

// Bytes of values that a damaged row must have kept: a number or two say nothing of it, and mostly come from no row at all.
const LEAST_BYTES = 6

/** Leftovers that waited, and how each stands to the live rows. */
interface Judged {
  store: LeftoverStore
  judgementOf: (id: number) => Judgement
}

type Values = readonly (SqlValue | undefined)[]

class Rebuilder {
  readonly #format: Format
  readonly #live: LiveRows
  /** Fingerprints of table, rowid and values of rows that were emitted, or are live. */
  readonly #seen = new KeyTable()
  /** The same without the rowid, of rows that were emitted. */
  readonly #bodies = new KeyTable()
  readonly #rowids = new KeyTable()
  /** By either fingerprint: rows that are held. */
  readonly #held = new Map<number, Emitted>()
  readonly #columns = new BloomFilter()
  readonly #entries: IndexEntries
  readonly #waiting = new Map<Table, LeftoverStore>()
  #waitingBytes = 0
  /** Some of those that wait were judged before all rows were found. */
  #judgedEarly = false
  readonly #claiming: { leftover: Leftover; decoded: Decoded }[] = []
  /** Which row lays claim to an overflow page. */
  readonly #claims = new Map<number, number>()
  readonly #disputed = new Set<number>()
  #emitted: Emitted[] = []
  #holding = true

  constructor(
    readonly database: Database,
    readonly catalogue: Catalogue,
    readonly siblings: Siblings,
    profiles: readonly Profile[],
  ) {
    const format = formatFor(database.pager.header, database.pager.pageCount, profiles)
    this.#format = trainedOnFreePages(database, catalogue, format)
    this.#live = new LiveRows(database, catalogue)
    this.#entries = new IndexEntries(this.#live)
  }

  /**
   * All rows that can be rebuilt, each version once: those that can be judged by themselves as their page is reached, the
   * others when the last page is known.
   */
  *rows(): Generator<Row> {
    for (const image of pageImages(this.database, this.catalogue, this.siblings)) {
      for (const located of recordsOfPage(image, this.#format)) this.#find(located)
      if (this.#waitingBytes >= MOST_WAITING) {
        this.#judgedEarly = true
        yield* this.#judgeAll()
      }
      yield* this.#out()
    }
    for (const { leftover, decoded } of this.#claiming) {
      const disputed = decoded.pages.some((page) => this.#disputed.has(page))
      this.#take(disputed ? withoutOverflow(leftover, decoded) : leftover)
    }
    yield* this.#judgeAll()
    this.#release()
    yield* this.#out()
  }

  /** The rows that need not be held any longer. */
  *#out(): Generator<Row> {
    if (this.#holding && this.#emitted.length > MOST_HELD) this.#release()
    if (this.#holding || this.#emitted.length === 0) return
    for (const { leftover, standing, changed, places } of this.#emitted)
      yield rowOf(leftover, standing, changed, places)
    this.#emitted = []
  }

  /** From now on rows go out as they are found; a further place of one is not added to it any more. */
  #release(): void {
    this.#holding = false
    this.#held.clear()
  }

  #find(located: Located): void {
    const decoded = decode(this.database, this.catalogue, located)
    const saysNothing = bytesKept(located, decoded) < (decoded.whole ? 1 : LEAST_BYTES)
    const leftover = leftoverOf(located, decoded)
    if (saysNothing || leftover.table.name.startsWith('sqlite_')) return
    if (decoded.pages.length > 0) this.#claim(leftover, decoded)
    else this.#take(leftover)
  }

  /**
   * Rows with overflow pages wait until it is known whether another row lays claim to the same page: it was used twice
   * then, and whose content stands on it cannot be emitted.
   */
  #claim(leftover: Leftover, decoded: Decoded): void {
    const key = rowKey('', valueKeys(decoded.values), leftover.rowid)
    for (const page of decoded.pages) {
      const other = this.#claims.get(page)
      if (other !== undefined && other !== key) this.#disputed.add(page)
      this.#claims.set(page, key)
    }
    this.#claiming.push({ leftover, decoded })
  }

  /** Tells a row at once where it can be judged by itself; the others wait. */
  #take(leftover: Leftover): void {
    const { table, rowid, whole, named } = leftover
    if (rowid === null || !whole || !(named || table === NO_TABLE)) {
      this.#wait(leftover)
      return
    }
    const values = padded(table, leftover.values)
    const keys = valueKeys(values)
    const key = rowKey(table.name, keys, rowid)
    if (this.#isKnown(this.#seen, key, leftover)) return
    const found = this.#live.find(table, rowid)
    const changed = found && changedPositions(values, padded(table, found))
    if (changed?.length === 0 || (table === NO_TABLE && this.#live.holds(rowid, values))) this.#seen.add(key)
    // It may have been emitted before, without its rowid.
    else if (this.#judgedEarly && this.#bodies.has(rowKey(table.name, keys))) return
    else this.#emit(leftover, changed ? 'superseded' : 'deleted', changed, values, keys)
  }

  /** True for a version that was found before; the row that is held for it gets this place as another one. */
  #isKnown(known: KeyTable, key: number, { place, confidence, reasons }: Leftover): boolean {
    if (!known.has(key)) return false
    const emitted = this.#held.get(key)
    if (!emitted) return true
    // The surest of its places is the one that is named.
    const better = confidence > emitted.leftover.confidence
    emitted.places.push(better ? emitted.leftover.place : place)
    if (better) emitted.leftover = { ...emitted.leftover, place, confidence, reasons }
    return true
  }

  #emit(
    leftover: Leftover,
    standing: RowStanding,
    changed: readonly number[] | undefined,
    values: Values,
    keys: readonly number[],
  ): void {
    const emitted: Emitted = { leftover, standing, changed, places: [] }
    const { table, rowid } = leftover
    this.#emitted.push(emitted)
    const body = rowKey(table.name, keys)
    this.#bodies.add(body)
    if (this.#holding) this.#held.set(body, emitted)
    if (rowid !== null) {
      const key = rowKey(table.name, keys, rowid)
      this.#seen.add(key)
      this.#rowids.add(rowKey(table.name, [], rowid))
      if (this.#holding) this.#held.set(key, emitted)
    }
    for (const key of columnKeys(values, keys)) this.#columns.add(key)
    // A row that lost its rowid says nothing of what entries it has.
    if (rowid !== null || table.withoutRowid || leftover.mayBeEntry) this.#entries.note(values, keys, rowid)
  }

  #wait(leftover: Leftover): void {
    const known = this.#waiting.get(leftover.table)
    const store = known ?? new LeftoverStore(leftover.table)
    if (!known) this.#waiting.set(leftover.table, store)
    this.#waitingBytes += store.add(leftover)
  }

  /** Rows without a rowid, and rows that are not whole: emitted once all others are known. The most complete come first. */
  *#judgeAll(): Generator<Row> {
    const entries: { of: Judged; id: number; width: number }[] = []
    for (const of of [...this.#waiting.values()].map((store) => this.#judged(store)))
      for (const id of byCompleteness(of.store)) {
        const { mayBeEntry, values } = of.store.at(id)
        if (mayBeEntry) entries.push({ of, id, width: values.length })
        else {
          this.#tell(of, id)
          yield* this.#out()
        }
      }
    // Once these are known it shows which of the others are entries of an index for them.
    for (const { of, id } of entries.sort((a, b) => b.width - a.width)) {
      this.#tell(of, id)
      yield* this.#out()
    }
    this.#waiting.clear()
    this.#waitingBytes = 0
  }

  #judged(store: LeftoverStore): Judged {
    const { table, count } = store
    const at = (id: number) => {
      const { values, whole } = store.at(id)
      return { values: padded(table, values), whole }
    }
    return { store, judgementOf: judge(this.database, table, { count, at }) }
  }

  #tell({ store, judgementOf }: Judged, id: number): void {
    const leftover = store.at(id)
    const values = padded(store.table, leftover.values)
    const keys = valueKeys(values)
    if (leftover.mayBeEntry && this.#entries.has(values, keys)) return
    const { verdict, changed } = this.#verdict(leftover, values, keys, judgementOf(id))
    if (verdict !== 'equal') this.#emit(leftover, verdict, changed, values, keys)
  }

  /** `equal`: it is a copy of a row that is live or was emitted. */
  #verdict(leftover: Leftover, values: Values, keys: readonly number[], judgement: Judgement): Judgement {
    if (judgement.verdict === 'equal') return judgement
    const { table, rowid, whole, named } = leftover
    if (rowid !== null) return this.#verdictByRowid(leftover, rowid, values, keys)
    if (whole) {
      if (this.#isKnown(this.#bodies, rowKey(table.name, keys), leftover)) return EQUAL
    } else if (columnKeys(values, keys).every((key) => this.#columns.has(key))) return EQUAL
    return named ? judgement : leftover.gone ? DELETED : UNSURE
  }

  #verdictByRowid(leftover: Leftover, rowid: number | bigint, values: Values, keys: readonly number[]): Judgement {
    const { table, whole, named } = leftover
    if (!whole && this.#rowids.has(rowKey(table.name, [], rowid))) return EQUAL
    const found = named ? this.#live.find(table, rowid) : undefined
    const changed = found && changedPositions(values, padded(table, found))
    if (changed?.length === 0) return EQUAL
    if (whole && this.#isKnown(this.#seen, rowKey(table.name, keys, rowid), leftover)) return EQUAL
    if (!named) return leftover.gone ? DELETED : UNSURE
    return changed ? { verdict: 'superseded', changed } : DELETED
  }
}

/** The numbers of leftovers, the most complete first. */
function byCompleteness(store: LeftoverStore): number[] {
  const ranks: number[][] = [[], [], [], []]
  for (let id = 0; id < store.count; id++) {
    const { whole, rowid } = store.at(id)
    ranks[(whole ? 0 : 2) + (rowid === null ? 1 : 0)]?.push(id)
  }
  return ranks.flat()
}

function bytesKept({ candidate: { types, lostSize } }: Located, { values }: Decoded): number {
  const sizes = types.map((type, position) => (values[position] === undefined ? 0 : sizeOf(type, lostSize)))
  return sizes.reduce((sum, size) => sum + size, 0)
}

const EQUAL: Judgement = { verdict: 'equal', changed: undefined }
const DELETED: Judgement = { verdict: 'deleted', changed: undefined }
const UNSURE: Judgement = { verdict: 'unsure', changed: undefined }

/** What is left of a record whose overflow pages cannot be trusted. */
const withoutOverflow = (leftover: Leftover, { ownValues }: Decoded): Leftover => ({
  ...leftover,
  values: leftover.values.map((value, position) => (position < ownValues ? value : undefined)),
  whole: false,
  reasons: [...leftover.reasons, 'another row lays claim to a page of it'],
})
