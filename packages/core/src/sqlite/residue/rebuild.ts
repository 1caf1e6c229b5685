import { FormatError, type Report } from '../../io/errors.js'
import { type BtreePage, PAGE_TYPE, parseBtreePage, readCell, readPayload } from '../btree.js'
import { type Database, namedValues } from '../database.js'
import { readFreelist } from '../freelist.js'
import { decodeRecord } from '../record.js'
import type { Row, SqlValue } from '../values.js'
import { fitsTable } from './fit.js'

/**
 * Rows that still lie on pages which the database has given up. Pages of the freelist keep the content they had
 * when they were freed, cell pointers included, so their cells are read like live ones; each must fit a table of
 * the schema and must not be a row that the database still shows.
 */
export async function rebuildRows(database: Database, report: Report): Promise<Row[]> {
  const { leaves } = await readFreelist(database.pager, report)
  const candidates: Row[] = []
  for (const number of leaves) {
    const page = parseBtreePage(number, await database.pager.page(number), database.pager.header.usableSize)
    if (page?.type === PAGE_TYPE.leafTable) candidates.push(...(await rowsOfPage(database, page)))
  }
  return withoutLiveRows(database, candidates)
}

async function rowsOfPage(database: Database, page: BtreePage): Promise<Row[]> {
  const rows: Row[] = []
  for (const at of page.cells) {
    try {
      const cell = readCell(page, at, database.pager.header.usableSize)
      // Overflow pages of a freed row may have been used again: only rows that are whole in their cell are taken.
      if (cell.overflow !== 0) continue
      const stored = decodeRecord(
        (await readPayload(database.pager, page, cell)) as Uint8Array,
        database.pager.header.encoding,
      )
      const row = attributed(database, stored, cell.rowid)
      if (row)
        rows.push({
          ...row,
          place: { kind: 'freelist', page: page.number, offset: database.pager.offsetOf(page.number) + at },
        })
    } catch (thrown) {
      if (!(thrown instanceof FormatError)) throw thrown
    }
  }
  return rows
}

function attributed(database: Database, stored: SqlValue[], rowid: number | bigint | null): Row | undefined {
  const fitting = [...database.tables.values()].filter((table) => !table.withoutRowid && fitsTable(table, stored))
  const exact = fitting.filter((table) => table.storedOrder.length === stored.length)
  const [table, second] = exact.length > 0 ? exact : fitting
  if (!table || second) return undefined
  return {
    table: table.name,
    rowid,
    values: namedValues(table, stored, rowid),
    missing: [],
    place: { kind: 'freelist', page: 0, offset: 0 },
    standing: 'deleted',
    confidence: 0.95,
  }
}

async function withoutLiveRows(database: Database, candidates: Row[]): Promise<Row[]> {
  const byTable = groupByTable(candidates)
  const kept: Row[] = []
  for (const [name, rows] of byTable) {
    const wanted = new Set(rows.map((row) => row.rowid))
    const live = new Map<Row['rowid'], string>()
    for await (const row of database.rows(name)) if (wanted.has(row.rowid)) live.set(row.rowid, contentKey(row))
    kept.push(...distinct(rows, live))
  }
  return kept
}

function distinct(rows: Row[], live: Map<Row['rowid'], string>): Row[] {
  const seen = new Set<string>()
  return rows.flatMap((row) => {
    const key = contentKey(row)
    const now = live.get(row.rowid)
    if (now === key || seen.has(key)) return []
    seen.add(key)
    return [now === undefined ? row : { ...row, standing: 'superseded' as const }]
  })
}

function groupByTable(rows: Row[]): Map<string, Row[]> {
  const groups = new Map<string, Row[]>()
  for (const row of rows) {
    const group = groups.get(row.table ?? '')
    if (group) group.push(row)
    else groups.set(row.table ?? '', [row])
  }
  return groups
}

function contentKey(row: Row): string {
  return JSON.stringify([String(row.rowid), Object.entries(row.values).map(([name, value]) => [name, keyPart(value)])])
}

const keyPart = (value: SqlValue) =>
  typeof value === 'bigint' ? `${value}n` : value instanceof Uint8Array ? Buffer.from(value).toString('base64') : value
