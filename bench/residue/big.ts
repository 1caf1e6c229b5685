import { existsSync, rmSync } from 'node:fs'
import { Random } from '@lumbrin/standins/random'
import sqlite from 'node-sqlite3-wasm'

/** Makes a database of about `megabytes`, of messages, with single rows and whole ranges deleted. */
export function makeBig(path: string, megabytes: number): void {
  if (existsSync(path)) rmSync(path)
  const random = new Random(5)
  const database = new sqlite.Database(path)
  database.exec(`PRAGMA journal_mode=OFF; PRAGMA synchronous=OFF; PRAGMA secure_delete=OFF;
    CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, handle_id INTEGER, service TEXT, date INTEGER, is_read INTEGER)`)
  const insert = database.prepare(
    'INSERT INTO message (guid, text, handle_id, service, date, is_read) VALUES (?, ?, ?, ?, ?, ?)',
  )
  // A message and its index entry take some 330 bytes.
  const rows = Math.round((megabytes * 1e6) / 330)
  database.exec('BEGIN')
  for (let i = 0; i < rows; i++)
    insert.run([
      random.uuid(),
      `message ${i} ${'about the folding stage '.repeat(random.int(1, 14))}`,
      random.int(1, 400),
      'mail',
      7e17 + i * 1e9,
      i % 2,
    ] as never)
  insert.finalize()
  database.exec('COMMIT; BEGIN')
  // One row in ten, and a tenth of all in one piece.
  database.run('DELETE FROM message WHERE ROWID % 10 = 3')
  database.run('DELETE FROM message WHERE ROWID > ? AND ROWID < ?', [Math.floor(rows * 0.5), Math.floor(rows * 0.6)])
  database.exec('COMMIT')
  database.close()
}
