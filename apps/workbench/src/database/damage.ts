import type { Db } from './connection.js'

/** Damage to the database's own files: a disk that fails, a copy that was cut short. */

// ER_TABLE_CORRUPT, ER_NO_SUCH_TABLE_IN_ENGINE, ER_INDEX_CORRUPT, ER_CRASHED_ON_USAGE, ER_NOT_KEYFILE, ER_GET_ERRNO (an
// error of the store itself), ER_TABLESPACE_MISSING; MariaDB's list of error codes.
const DAMAGE = new Set([1877, 1932, 1712, 1194, 1034, 1030, 1812])

export const WHAT_TO_DO =
  'Stop Lumbrin, copy its data folder as it is to another disk, and bring the last backup into a new folder: npm run restore -- BACKUP, with LUMBRIN_DATA naming the new one.'

/** True for errors that say that a table cannot be read any more. */
export const isDamage = (thrown: unknown): boolean =>
  thrown instanceof Error && DAMAGE.has((thrown as { errno?: number }).errno ?? 0)

/** The tables that the database finds damaged, each of which is read for it. */
export async function damagedTables(db: Db): Promise<string[]> {
  const tables: string[] = await db('information_schema.tables')
    .whereRaw("table_schema = DATABASE() AND table_type = 'BASE TABLE'")
    .orderBy('table_name')
    .pluck('table_name')
  const damaged: string[] = []
  for (const table of tables) {
    const [rows] = (await db.raw('CHECK TABLE ?? QUICK', [table])) as [{ Msg_type: string }[]]
    if (rows.some(({ Msg_type }) => Msg_type.toLowerCase() === 'error')) damaged.push(table)
  }
  return damaged
}
