import { copyFileSync, existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { MemorySource } from '@lumbrin/core/io/source'
import { openDatabase } from '@lumbrin/core/sqlite/open'
import { rebuildRows } from '@lumbrin/core/sqlite/residue/rebuild'
import type { Row } from '@lumbrin/core/sqlite/values'
import sqlite from 'node-sqlite3-wasm'
import { expect } from 'vitest'
import { makeByShell, scratchFolder } from './fixtures.js'

interface Options {
  wal?: boolean
  /** Settings that are made before the database is. */
  pragmas?: string
  encoding?: 'UTF-16le' | 'UTF-16be'
  change?: (bytes: Buffer) => void
}

const WAL = 'PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;'

/** Runs SQL in SQLite itself and gives what is rebuilt from its files as they lie on disk before it closes them. */
export function rebuilt(sql: string, { wal: logged = false, pragmas = '', encoding, change }: Options = {}): Row[] {
  const file = join(scratchFolder(), 'made.db')
  const all = `${pragmas} ${logged ? WAL : ''} PRAGMA secure_delete=OFF; ${sql}`
  if (encoding) makeByShell(file, encoding, all, copyCommand(file))
  else runInLibrary(file, all)
  const bytes = readFileSync(`${file}.copy`)
  const wal = logged ? new MemorySource(readFileSync(`${file}.copy-wal`)) : undefined
  change?.(bytes)
  const opened = openDatabase({ main: new MemorySource(bytes), wal }, () => {})
  expect(opened.database.pager.header.encoding).toBe(encoding ? encoding.toLowerCase().replace('-', '') : 'utf8')
  return [...rebuildRows(opened)]
}

function runInLibrary(file: string, sql: string): void {
  const database = new sqlite.Database(file)
  database.exec(sql)
  for (const ending of ['', '-wal']) if (existsSync(file + ending)) copyFileSync(file + ending, `${file}.copy${ending}`)
  database.close()
}

const copyCommand = (file: string) =>
  `sh -c "${['', '-wal'].map((ending) => `cp ${file}${ending} ${file}.copy${ending}`).join('; ')} 2>/dev/null; true"`
