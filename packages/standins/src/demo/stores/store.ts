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
  { path, state }: StoreFile,
  schema: string,
  fill: (database: StoreDatabase) => void,
): Promise<Uint8Array> {
  const database = new sqlite.Database(path)
  database.exec(`PRAGMA secure_delete=OFF; ${schema}; BEGIN`)
  fill(database)
  database.exec('COMMIT')
  if (state) goBack(database, state)
  database.close()
  const bytes = await readFile(path)
  await rm(path)
  return bytes
}

/** Where a store is made, and whether it shows the last state or an earlier one, when nothing was lost yet. */
export class StoreFile {
  constructor(
    readonly path: string,
    readonly state?: Date,
  ) {}

  /** One item in five is lost for good, some of the others lie in a bin where the store has one. */
  fateOf(i: number, withBin = false): WrittenItem['fate'] {
    if (this.state) return 'live'
    if (i % 5 === 3) return 'deleted'
    return withBin && i % 9 === 4 ? 'binned' : 'live'
  }
}

// The columns that say when a row came to be, where a store has one, in seconds since 2001.
const BORN: Record<string, string> = {
  ABPerson: 'CreationDate',
  ZCALLRECORD: 'ZDATE',
  ZREMCDREMINDER: 'ZCREATIONDATE',
  CalendarItem: 'creation_date',
  history_visits: 'visit_time',
  ZCLOUDRECORDING: 'ZDATE',
  ZWAMESSAGE: 'ZMESSAGEDATE',
}

/** Takes out what was not there yet on an earlier day, and leaves no trace of it. */
function goBack(database: StoreDatabase, state: Date): void {
  for (const [table, column] of Object.entries(BORN)) {
    const known = database.get('SELECT 1 FROM sqlite_master WHERE name = ?', [table])
    if (known) database.run(`DELETE FROM ${table} WHERE ${column} > ?`, [cocoa(state)])
  }
  database.exec('VACUUM')
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
