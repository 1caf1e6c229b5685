import type { Table } from '../../database.js'
import type { Column } from '../../ddl.js'

/** Stands for a dropped table of which nothing but rows is left. */
export const NO_TABLE: Table = {
  name: '',
  root: 0,
  columns: [],
  withoutRowid: false,
  rowidColumn: -1,
  primaryKey: [],
  storedOrder: [],
  storedPosition: [],
}

/** The same for reading more of its rows, by those that are known: of so many columns, of which any may hold anything. */
export function unknownTable(count: number, withoutRowid: boolean): Table {
  const order = Array.from({ length: count }, (_, i) => i)
  const columns = order.map(
    (i): Column => ({
      name: `c${i}`,
      declaredType: '',
      affinity: 'blob',
      notNull: false,
      unique: false,
      defaultValue: null,
      virtual: false,
    }),
  )
  return { ...NO_TABLE, columns, withoutRowid, storedOrder: order, storedPosition: order }
}

export const isUnknown = (table: Table): boolean => table.name === NO_TABLE.name
