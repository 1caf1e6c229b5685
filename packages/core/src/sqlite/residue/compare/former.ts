import type { Table } from '../../database.js'
import type { SqlValue } from '../../values.js'

/** A stored row of a table as its columns were before; undefined: a column that it has no more. */
export function asBefore({ storedOrder, columns, now }: Table, stored: readonly SqlValue[]): (SqlValue | undefined)[] {
  return storedOrder.map((index) => {
    const name = columns[index]?.name
    const today = now?.columns.findIndex((column) => column.name === name) ?? -1
    const position = now?.storedPosition[today] ?? -1
    if (position < 0) return undefined
    return position < stored.length ? stored[position] : (now?.columns[today]?.defaultValue ?? null)
  })
}
