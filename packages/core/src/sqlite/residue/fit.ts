import type { Table } from '../database.js'
import type { Column } from '../ddl.js'
import type { SqlValue } from '../values.js'

/**
 * Whether a stored record can be a row of the table: its count of columns, the rowid's place (stored as NULL),
 * NOT NULL columns and the classes that each column's affinity lets through. A short record is legal: columns
 * added later are not stored in rows written before.
 */
export function fitsTable(table: Table, stored: readonly SqlValue[]): boolean {
  if (stored.length === 0 || stored.length > table.storedOrder.length) return false
  return stored.every((value, position) => {
    const index = table.storedOrder[position] as number
    if (index === table.rowidColumn) return value === null
    return fitsColumn(table.columns[index] as Column, value)
  })
}

function fitsColumn(column: Column, value: SqlValue): boolean {
  if (value === null) return !column.notNull
  switch (column.affinity) {
    case 'integer':
      return typeof value === 'bigint' || (typeof value === 'number' && Number.isInteger(value))
    case 'real':
    case 'numeric':
      return typeof value === 'number' || typeof value === 'bigint'
    case 'text':
      return typeof value === 'string' || value instanceof Uint8Array
    case 'blob':
      return true
  }
}
