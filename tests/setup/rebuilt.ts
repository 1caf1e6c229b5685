import { copyFileSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { MemorySource } from '@lumbrin/core/io/source'
import { openDatabase } from '@lumbrin/core/sqlite/open'
import { rebuildRows } from '@lumbrin/core/sqlite/residue/rebuild'
import type { Row } from '@lumbrin/core/sqlite/values'
import sqlite from 'node-sqlite3-wasm'
import { scratchFolder } from './fixtures.js'

/** Runs SQL in SQLite itself and gives its files as they lie on disk before it closes them. */
export function rebuilt(sql: string, options: { wal?: boolean; change?: (bytes: Buffer) => void } = {}): Row[] {
  const file = join(scratchFolder(), 'made.db')
  const database = new sqlite.Database(file)
  if (options.wal) database.exec('PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;')
  database.exec(`PRAGMA secure_delete=OFF; ${sql}`)
  copyFileSync(file, `${file}.copy`)
  const wal = options.wal ? new MemorySource(readFileSync(`${file}-wal`)) : undefined
  database.close()
  const bytes = readFileSync(`${file}.copy`)
  options.change?.(bytes)
  return [...rebuildRows(openDatabase({ main: new MemorySource(bytes), wal }, () => {}))]
}
