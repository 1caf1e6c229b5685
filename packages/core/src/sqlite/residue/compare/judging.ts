import type { Database, Table } from '../../database.js'
import { RecordView } from '../../record.js'
import { isUnknown } from '../evidence/unknown.js'
import { asBefore } from './former.js'
import { KeyIndex } from './key-index.js'
import { columnKeys, rowKey, storedKeys, valueKeys } from './keys.js'
import { type Judgement, Matcher, type UnplacedRows } from './matcher.js'

/**
 * Compares rebuilt rows of unknown rowid with the live rows of their table, in one walk. A live row with the same values
 * makes them a stale copy; one with the same key, or with most of the same values, a newer version.
 */
export function judge(database: Database, table: Table, rows: UnplacedRows): (id: number) => Judgement {
  if (table.now) return judgeBefore(database, table, table.now, rows)
  // A dropped table has no live rows, and its pages are no tree any more.
  if (database.tables.get(table.name) !== table) {
    const matcher = new Matcher(table, rows, new Set())
    const copies = isUnknown(table) ? copiesAmong(database, rows) : new Set<number>()
    return (id) => (copies.has(id) ? { verdict: 'equal', changed: undefined } : matcher.judgement(id))
  }
  const matcher = new Matcher(table, rows, commonKeys(database, table))
  const record = new RecordView(database.pager.header.encoding)
  // A damaged live row says nothing about older ones; reading the table reports it.
  for (const { payload } of database.payloads(table)) if (record.tryOpen(payload)) matcher.see(record)
  return (id) => matcher.judgement(id)
}

/** Rows of columns that a table had before, beside its live rows in as many of those as they have still. */
function judgeBefore(database: Database, table: Table, now: Table, rows: UnplacedRows): (id: number) => Judgement {
  const matcher = new Matcher(table, rows, new Set())
  const record = new RecordView(database.pager.header.encoding)
  for (const { payload } of database.payloads(now))
    if (record.tryOpen(payload)) matcher.seeValues(asBefore(table, record.values()))
  return (id) => matcher.judgement(id)
}

/** A row of which no table is known is a stale copy where a live row of any table holds the same values. */
function copiesAmong(database: Database, rows: UnplacedRows): Set<number> {
  const byRow = new KeyIndex()
  const widths = new Set<number>()
  for (let id = 0; id < rows.count; id++) {
    const { values, whole } = rows.at(id)
    if (!whole) continue
    byRow.add(rowKey('', valueKeys(values)), id)
    widths.add(values.length)
  }
  const copies = new Set<number>()
  const record = new RecordView(database.pager.header.encoding)
  for (const table of database.tables.values()) {
    if (!widths.has(table.storedOrder.length)) continue
    for (const { payload } of database.payloads(table)) {
      if (!record.tryOpen(payload)) continue
      for (let entry = byRow.first(rowKey('', storedKeys(record))); entry >= 0; entry = byRow.next(entry))
        copies.add(byRow.id(entry))
    }
  }
  return copies
}

// So many live rows say which values are everyday ones.
const SAMPLE_ROWS = 1000
// A value that so many of them share, and at least this share of them, does not tell one row from another.
const COMMON_ROWS = 4
const COMMON_SHARE = 0.02

/** Fingerprints of values that many live rows share: a folder, a kind, a size. */
function commonKeys(database: Database, table: Table): Set<number> {
  const counts = new Map<number, number>()
  const record = new RecordView(database.pager.header.encoding)
  let rows = 0
  for (const { payload } of database.payloads(table)) {
    if (rows >= SAMPLE_ROWS) break
    if (!record.tryOpen(payload)) continue
    const values = record.values()
    for (const key of columnKeys(values, valueKeys(values))) counts.set(key, (counts.get(key) ?? 0) + 1)
    rows++
  }
  const least = Math.max(COMMON_ROWS, rows * COMMON_SHARE)
  return new Set([...counts].flatMap(([key, count]) => (count >= least ? [key] : [])))
}
