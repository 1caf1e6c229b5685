import type { Catalogue } from '../catalogue.js'
import { type Database, SCHEMA_TABLE, type Table, tableOf } from '../database.js'
import type { Row, SqlValue } from '../values.js'
import { formatFor } from './evidence/candidate.js'
import { schemaProfile } from './evidence/profile.js'
import { decode } from './scan/decode.js'
import { pageImages, type Siblings } from './scan/images.js'
import { recordsOfPage } from './scan/page.js'

/** A CREATE TABLE statement that the schema does not show any more, and the table that it defined. */
export interface SchemaRow {
  row: Row
  /** With `now`: it is there still, with other columns. */
  table: Table
}

/**
 * Tables that were dropped, and earlier columns of others, as far as their statements still lie on pages of the schema or in a log. The pages of a
 * dropped table are on the freelist, and only its statement tells what their rows mean.
 */
export function droppedTables(database: Database, catalogue: Catalogue, siblings: Siblings): SchemaRow[] {
  const format = formatFor(database.pager.header, database.pager.pageCount, [schemaProfile()])
  const schemaPages = new Set([1])
  for (const [page, owner] of catalogue.owner.entries()) if (owner === 0) schemaPages.add(page)
  const found = new Map<string, SchemaRow>()
  for (const image of pageImages(database, catalogue, siblings, schemaPages)) {
    for (const located of recordsOfPage(image, format)) {
      const { values, whole } = decode(database, catalogue, located)
      const row = whole
        ? schemaRow(values, located.candidate.rowid, {
            kind: located.kind,
            page: image.page,
            offset: image.offset + located.candidate.start,
          })
        : undefined
      const table = row && tableOf(row.values)
      if (!row || !table || table.name.startsWith('sqlite_')) continue
      const now = database.tables.get(table.name)
      if (!now) found.set(`${table.name}\0${row.values.sql}`, { row, table })
      else if (lostColumn(table, now)) found.set(`${table.name}\0${row.values.sql}`, { row, table: { ...table, now } })
    }
  }
  return [...found.values()]
}

/** A column was taken out of the table since. One that was added or renamed leaves its older rows readable as they are. */
const lostColumn = (before: Table, now: Table): boolean =>
  before.withoutRowid === now.withoutRowid &&
  before.storedOrder.length !== now.storedOrder.length &&
  before.columns.some(({ name }) => !now.columns.some((column) => column.name === name))

function schemaRow(values: readonly (SqlValue | undefined)[], rowid: Row['rowid'], place: Row['place']): Row {
  const named = Object.fromEntries(SCHEMA_TABLE.columns.map((column, i) => [column.name, values[i] ?? null]))
  return { table: SCHEMA_TABLE.name, rowid, values: named, missing: [], place, standing: 'deleted', confidence: 0.95 }
}
