/** A value of a database as it is stored. Integers that a number cannot hold exactly come as bigint. */
export type SqlValue = null | number | bigint | string | Uint8Array

/** Where the bytes of a row lie. `live`: in the table itself; all others are leftovers. */
export type PlaceKind = 'live' | 'freelist' | 'freeblock' | 'gap' | 'wal' | 'journal' | 'dropped' | 'other'

/** Position of a row: the page it lies on (from 1) and the byte offset of its cell within that file. */
export interface Place {
  kind: PlaceKind
  page: number
  /** Byte offset in the file that holds the page (database, write-ahead log or journal). */
  offset: number
}

/** How a row stands to the rows that the database shows. */
export type RowStanding = 'live' | 'deleted' | 'superseded' | 'unsure'

/**
 * One row, live or rebuilt: the single shape that every category reads, so that it is written once.
 * In a rebuilt row a value that could not be had with certainty is absent and named in `missing`.
 */
export interface Row {
  /** Null: belongs to a dropped or undecidable table; `values` is then keyed c0, c1, … in stored order. */
  table: string | null
  /** Null: overwritten, or a table without rowids. */
  rowid: number | bigint | null
  values: Record<string, SqlValue>
  missing: string[]
  place: Place
  standing: RowStanding
  /** From 0 to 1; 1 for live rows. */
  confidence: number
  /** Of a rebuilt row: what its confidence follows from. */
  reasons?: readonly string[]
  /** Of a rebuilt row without a table: the tables that fit it equally well. */
  candidates?: string[]
  /** Of a superseded row: the columns whose values the live row changed. */
  changed?: string[]
  /** Where else the same version lies. */
  otherPlaces?: Place[]
}

/** A live row's text column: null where absent, blobs of UTF-8 read as text (some stores keep addresses so). */
export function textValue(value: SqlValue | undefined): string | null {
  if (typeof value === 'string') return value
  return value instanceof Uint8Array ? Buffer.from(value).toString('utf8') : null
}

/** A whole number that fits a JavaScript number, else null. */
export function numberValue(value: SqlValue | undefined): number | null {
  return typeof value === 'number' ? value : typeof value === 'bigint' ? Number(value) : null
}
