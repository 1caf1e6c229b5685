import { FormatError } from '../../io/errors.js'
import { headerStart, PAGE_TYPE, parseBtreePage, readCell } from '../btree.js'
import { type Catalogue, catalogueOf, USE } from '../catalogue.js'
import type { Database, Table } from '../database.js'
import type { OpenedDatabase } from '../open.js'
import { RecordView, serialSize } from '../record.js'
import type { Place, SqlValue } from '../values.js'
import { trustIn } from './compare/leftover.js'
import { droppedTables } from './dropped.js'
import { type Format, formatFor, sizeOf } from './evidence/candidate.js'
import { profilesOf } from './evidence/profile.js'
import { type Decoded, decode } from './scan/decode.js'
import { hiddenImageAt, type PageImage, pageImageOf } from './scan/images.js'
import { type Located, recordsOfPage } from './scan/page.js'
import { trainedOnFreePages } from './scan/training.js'

/** Bytes of a page that belong together. Offsets are within the page. */
export interface Span {
  start: number
  end: number
  kind: 'header' | 'pointers' | 'gap' | 'freeblock' | 'cell' | 'rebuilt' | 'other'
}

/** A row on a page, with the bytes of each of its columns. */
export interface RowLook {
  kind: 'live' | 'rebuilt'
  start: number
  end: number
  /** Where its record's values begin: what lies before is the cell's head. */
  body: number
  table: string | null
  rowid: number | bigint | null
  place: Place['kind']
  /** From 0 to 1 as far as this page tells, and what that follows from; 1 and nothing for live rows. */
  confidence: number
  reasons: readonly string[]
  columns: ColumnLook[]
}

export interface ColumnLook {
  name: string
  start: number
  /** Behind its last byte on this page. */
  end: number
  /** Undefined: lost. */
  value: SqlValue | undefined
}

/** One page image, taken apart. */
export interface PageLook {
  page: number
  use: number
  owner: string | null
  file: PageImage['file']
  /** Of the image, in the file that holds it. */
  offset: number
  bytes: Uint8Array
  spans: Span[]
  rows: RowLook[]
}

/** A database opened for looking at its pages one by one. */
export class DatabaseLook {
  readonly catalogue: Catalogue
  readonly #format: Format
  readonly #database: Database

  constructor(readonly opened: OpenedDatabase) {
    const { database, siblings } = opened
    this.#database = database
    this.catalogue = catalogueOf(database)
    const dropped = droppedTables(database, this.catalogue, siblings).map((row) => row.table)
    const profiles = profilesOf(database, this.catalogue, dropped)
    const format = formatFor(database.pager.header, database.pager.pageCount, profiles)
    this.#format = trainedOnFreePages(database, this.catalogue, format)
  }

  get pageCount(): number {
    return this.#database.pager.pageCount
  }

  get pageSize(): number {
    return this.#database.pager.pageSize
  }

  /**
   * A page as the database shows it, or with `at` the hidden image of it in which that byte of a file lies.
   * Undefined: there is no such page.
   */
  page(number: number, at?: { file: PageImage['file']; offset: number }): PageLook | undefined {
    const shown = pageImageOf(this.#database, this.catalogue, number)
    const isShown = at?.file === 'database' && shown?.offset === at.offset - (at.offset % this.pageSize)
    const image =
      at && !isShown ? hiddenImageAt(this.#database, this.catalogue, this.opened.siblings, at.file, at.offset) : shown
    if (!image) return undefined
    const rows = [...this.#liveRows(image), ...this.#rebuiltRows(image)].sort((a, b) => a.start - b.start)
    const owner = this.catalogue.trees[this.catalogue.owner[image.page] ?? -1]
    return {
      page: image.page,
      use: image.use,
      owner: owner?.name ?? null,
      file: image.file,
      offset: image.offset,
      bytes: image.bytes,
      spans: this.#spans(image, rows),
      rows,
    }
  }

  #liveRows(image: PageImage): RowLook[] {
    if (!image.shown) return []
    const { usableSize, encoding } = this.#format
    const page = parseBtreePage(image.page, image.bytes, usableSize)
    if (!page || page.type === PAGE_TYPE.interiorTable) return []
    const record = new RecordView(encoding)
    return page.cells.flatMap((at) => {
      try {
        const cell = readCell(page, at, usableSize)
        const local = image.bytes.subarray(cell.payloadStart, cell.payloadStart + cell.localSize)
        // The rest of a long record lies on other pages; this view shows what lies here.
        const opened = cell.overflow === 0 && record.tryOpen(local)
        const columns = opened ? columnsOf(record, cell.payloadStart, image.owner, cell.rowid) : []
        const body = columns[0]?.start ?? cell.payloadStart
        const shared = { start: at, end: cell.end, body, columns, rowid: cell.rowid, confidence: 1, reasons: [] }
        return [{ kind: 'live' as const, place: 'live' as const, table: image.owner?.name ?? null, ...shared }]
      } catch (thrown) {
        if (thrown instanceof FormatError) return []
        throw thrown
      }
    })
  }

  #rebuiltRows(image: PageImage): RowLook[] {
    return recordsOfPage(image, this.#format).map((located) => {
      const { candidate, kind, table } = located
      const { values, whole } = decode(this.#database, this.catalogue, located)
      return {
        kind: 'rebuilt',
        start: candidate.start,
        end: candidate.end,
        body: candidate.body,
        table: table && !table.dropped ? table.table.name : null,
        rowid: candidate.rowid,
        place: kind,
        ...trustIn(located, whole),
        columns: rebuiltColumns(located, values),
      }
    })
  }

  /** Every byte of the page in one span, in order. */
  #spans({ page, bytes, use }: PageImage, rows: readonly RowLook[]): Span[] {
    const parsed =
      use === USE.overflow || use === USE.freeTrunk ? undefined : parseBtreePage(page, bytes, this.#format.usableSize)
    const known: Span[] = rows.map(({ start, end, kind }) => ({
      start,
      end,
      kind: kind === 'live' ? 'cell' : 'rebuilt',
    }))
    if (parsed) {
      const headerEnd = headerStart(page) + (parsed.rightChild || parsed.type <= PAGE_TYPE.interiorTable ? 12 : 8)
      known.push({ start: 0, end: headerEnd, kind: 'header' })
      known.push({ start: headerEnd, end: parsed.pointersEnd, kind: 'pointers' })
    }
    const gapEnd = parsed ? Math.min(parsed.contentStart, bytes.length) : 0
    const fill = (start: number, end: number): Span[] => {
      if (!parsed || start >= gapEnd) return [{ start, end, kind: parsed ? 'freeblock' : 'other' }]
      if (end <= gapEnd) return [{ start, end, kind: 'gap' }]
      return [{ start, end: gapEnd, kind: 'gap' }, ...fill(gapEnd, end)]
    }
    const spans: Span[] = []
    let at = 0
    for (const span of known.sort((a, b) => a.start - b.start)) {
      if (span.start > at) spans.push(...fill(at, span.start))
      if (span.end > at) spans.push({ ...span, start: Math.max(at, span.start) })
      at = Math.max(at, span.end)
    }
    if (at < bytes.length) spans.push(...fill(at, bytes.length))
    return spans
  }
}

function columnsOf(record: RecordView, offset: number, table: Table | undefined, rowid: SqlValue): ColumnLook[] {
  return record.values().map((stored, position) => {
    const value = isRowid(table, position) ? rowid : stored
    const start = offset + (record.starts[position] as number)
    return {
      name: columnName(table, position),
      start,
      end: start + serialSize(record.types[position] as number),
      value,
    }
  })
}

function rebuiltColumns({ candidate, table }: Located, values: Decoded['values']): ColumnLook[] {
  let at = candidate.body
  return candidate.types.map((type, position) => {
    const start = Math.min(at, candidate.end)
    at += sizeOf(type, candidate.lostSize)
    return {
      name: columnName(table?.table, position),
      start,
      end: Math.min(at, candidate.end),
      value: isRowid(table?.table, position) ? (candidate.rowid ?? undefined) : values[position],
    }
  })
}

/** The column that stands for the rowid is stored as NULL. */
const isRowid = (table: Table | undefined, position: number): boolean =>
  table !== undefined && table.rowidColumn >= 0 && table.storedOrder[position] === table.rowidColumn

function columnName(table: Table | undefined, position: number): string {
  return table?.columns[table.storedOrder[position] ?? -1]?.name ?? `c${position}`
}
