import type { Knex } from 'knex'
import { parsed } from '../json.js'
import { fromStored, toStored } from '../places.js'

/** Columns with a path, and the JSON columns beside them that tell it once more as `path`. */
const COLUMNS = [
  ['sources', 'path', 'info'],
  ['handovers', 'destination', 'summary'],
] as const

/** Paths in the data folder are told from there on. */
export const up = (db: Knex): Promise<void> => change(db, toStored)

export const down = (db: Knex): Promise<void> => change(db, fromStored)

async function change(db: Knex, next: (path: string) => string): Promise<void> {
  for (const [table, column, json] of COLUMNS)
    for (const row of await db(table).select('id', column, json)) {
      const beside = parsed<{ path?: string } | null>(row[json])
      const changed = beside?.path === undefined ? beside : { ...beside, path: next(beside.path) }
      await db(table)
        .where({ id: row.id })
        .update({ [column]: next(row[column]), [json]: changed && JSON.stringify(changed) })
    }
}
