import { readFile, rm } from 'node:fs/promises'
import sqlite from 'node-sqlite3-wasm'

/** One item that was written, for checks of what is read back. */
export interface WrittenItem {
  /** What tells it apart: the same as the category's own field. */
  key: string
  title: string
  fate: 'live' | 'binned' | 'deleted'
}

export type StoreDatabase = InstanceType<typeof sqlite.Database>

/** Makes a database with ordinary SQL in an ordinary SQLite, and gives its bytes. */
export async function makeStore(
  file: string,
  schema: string,
  fill: (database: StoreDatabase) => void,
): Promise<Uint8Array> {
  const database = new sqlite.Database(file)
  database.exec(`PRAGMA secure_delete=OFF; ${schema}; BEGIN`)
  fill(database)
  database.exec('COMMIT')
  database.close()
  const bytes = await readFile(file)
  await rm(file)
  return bytes
}

/** Inserts a row given by column names; gives its rowid. */
export function insert(database: StoreDatabase, table: string, row: Record<string, unknown>): number {
  const names = Object.keys(row)
  const marks = names.map(() => '?').join(', ')
  const { lastInsertRowid } = database.run(
    `INSERT INTO ${table} (${names.join(', ')}) VALUES (${marks})`,
    Object.values(row) as never,
  )
  return Number(lastInsertRowid)
}

/** What is written is written first and deleted afterwards, in a transaction of its own. */
export function lose(database: StoreDatabase, statements: [sql: string, id: number][]): void {
  database.exec('COMMIT; BEGIN')
  for (const [sql, id] of statements) database.run(sql, [id])
}

const COCOA = 978_307_200

/** Seconds since 2001. */
export const cocoa = (at: Date): number => Math.round(at.getTime() / 1000) - COCOA
export const unix = (at: Date): number => Math.round(at.getTime() / 1000)

/** One item in five is lost for good, some of the others lie in a bin where the store has one. */
export function fateOf(i: number, withBin = false): WrittenItem['fate'] {
  if (i % 5 === 3) return 'deleted'
  return withBin && i % 9 === 4 ? 'binned' : 'live'
}
