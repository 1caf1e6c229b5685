import type { Table } from '../../database.js'
import type { Place, Row, RowStanding, SqlValue } from '../../values.js'
import type { Candidate } from '../evidence/candidate.js'
import { NO_TABLE } from '../evidence/unknown.js'
import type { Decoded } from '../scan/decode.js'
import type { Located } from '../scan/page.js'

/** A leftover record with its values but without its page: small enough to be kept until all others are known. */
export interface Leftover {
  /** The one it is read by; `NO_TABLE`: of a dropped table of which nothing but rows is left. */
  table: Table
  /** Its table exists and is certain. Where it is not, the row comes without a table's name. */
  named: boolean
  /** Its table was dropped: no row of it is live. */
  gone: boolean
  /** It stood on a page that may have been an index's, whose entries look like rows without rowid. */
  mayBeEntry: boolean
  /** Tables that fit as well. */
  candidates: string[]
  rowid: number | bigint | null
  /** In stored order; undefined: lost. */
  values: readonly (SqlValue | undefined)[]
  whole: boolean
  place: Place
  confidence: number
  /** What the confidence follows from, in words. */
  reasons: readonly string[]
}

export function leftoverOf(located: Located, decoded: Decoded): Leftover {
  const { candidate, image, kind, table: profile } = located
  const table = (profile ?? candidate.fits[0]?.profile)?.table ?? NO_TABLE
  return {
    table,
    named: isNamed(located),
    gone: table === NO_TABLE || profile?.dropped === true,
    mayBeEntry: candidate.ofIndex && image.owner?.withoutRowid !== true,
    candidates: profile ? [] : candidate.fits.map((fit) => fit.profile.table.name),
    rowid: candidate.rowid,
    values: decoded.values,
    whole: decoded.whole,
    place: { kind, page: image.page, offset: image.offset + candidate.start },
    ...trustIn(located, decoded.whole),
  }
}

const isNamed = ({ table }: Located): boolean => table !== undefined && !table.dropped

/** How sure a record is, from 0 to 1, and what that follows from. */
export function trustIn(located: Located, whole: boolean): Pick<Leftover, 'confidence' | 'reasons'> {
  const named = isNamed(located)
  return {
    confidence: confidenceOf(located.candidate, whole, named),
    reasons: reasonsOf(located.candidate, whole, named),
  }
}

/** From bits of evidence to a number that a person can read; a record named by its page's pointers is as good as live. */
function confidenceOf({ bits, intact, chance }: Candidate, whole: boolean, named: boolean): number {
  const sure = intact ? 0.99 : Math.min(0.97, 0.6 + bits / 200) * chance
  return Math.round(sure * (whole ? 1 : 0.8) * (named ? 1 : 0.8) * 100) / 100
}

function reasonsOf(candidate: Candidate, whole: boolean, named: boolean): string[] {
  const { intact, startOverwritten, typesLost, chance, cut, fits } = candidate
  const reasons = [
    intact
      ? 'a pointer of its page names it'
      : startOverwritten
        ? 'its record header was overwritten'
        : 'its record header is whole',
  ]
  if (typesLost > 0)
    reasons.push(typesLost === 1 ? 'the type of one value was lost' : 'the types of two values were lost')
  if (chance < 1) reasons.push(`its first bytes are read so with a chance of ${Math.floor(100 * chance)} %`)
  if (cut || !whole) reasons.push('a part of it was overwritten')
  if (!named) reasons.push('its table is not certain')
  else if (fits[0] && !fits[0].profile.fitted) reasons.push('too few rows are live to compare it with')
  return reasons
}

/** A short record's values with what its later columns stand for. */
export function padded<T extends SqlValue | undefined>(table: Table, values: readonly T[]): readonly (T | SqlValue)[] {
  if (values.length >= table.storedOrder.length) return values
  const added = table.storedOrder.slice(values.length)
  return [...values, ...added.map((index) => table.columns[index]?.defaultValue ?? null)]
}

/** A leftover as a row. `changed`: positions where the live row differs. */
export function rowOf(
  leftover: Leftover,
  standing: RowStanding,
  changed: readonly number[] | undefined,
  otherPlaces: readonly Place[],
): Row {
  const { table, named, rowid, place, confidence, candidates } = leftover
  const { values, missing } = named ? namedParts(leftover) : positionParts(leftover)
  const { reasons } = leftover
  const row: Row = { table: named ? table.name : null, rowid, values, missing, place, standing, confidence, reasons }
  if (!named) row.candidates = candidates
  if (changed) row.changed = changed.map((position) => table.columns[table.storedOrder[position] as number]?.name ?? '')
  if (otherPlaces.length > 0) row.otherPlaces = [...otherPlaces]
  return row
}

interface Parts {
  values: Record<string, SqlValue>
  missing: string[]
}

function positionParts({ values }: Leftover): Parts {
  const parts: Parts = { values: {}, missing: [] }
  for (const [position, value] of values.entries())
    if (value === undefined) parts.missing.push(`c${position}`)
    else parts.values[`c${position}`] = value
  return parts
}

function namedParts({ table, rowid, values }: Leftover): Parts {
  const parts: Parts = { values: {}, missing: [] }
  for (let index = 0; index < table.columns.length; index++) {
    const column = table.columns[index] as Table['columns'][number]
    const position = table.storedPosition[index] as number
    if (position < 0) continue
    const stored = position < values.length ? values[position] : column.defaultValue
    const value = index === table.rowidColumn ? (rowid ?? undefined) : stored
    if (value === undefined) parts.missing.push(column.name)
    else
      setNamed(
        parts.values,
        column.name,
        column.affinity === 'real' && typeof value === 'bigint' ? Number(value) : value,
      )
  }
  return parts
}

/** Sets a value under a column name out of a file that anybody may have made. */
export function setNamed(values: Record<string, SqlValue>, name: string, value: SqlValue): void {
  // Assigning to this one name would set the object's prototype instead.
  if (name === '__proto__')
    Object.defineProperty(values, name, { value, enumerable: true, writable: true, configurable: true })
  else values[name] = value
}
