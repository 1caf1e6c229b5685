import { execFileSync } from 'node:child_process'
import sqlite from 'node-sqlite3-wasm'

export type Value = null | number | bigint | string | Uint8Array

/**
 * A database whose statements are kept, so that SQLite's own shell can run them again: the library that is used here is
 * built without UTF-16, and makes files of UTF-8 whatever `PRAGMA encoding` says.
 */
export class RecordedDatabase {
  readonly #database: InstanceType<typeof sqlite.Database>
  readonly #statements: string[] = []

  constructor(path: string) {
    this.#database = new sqlite.Database(path)
  }

  exec(sql: string): void {
    this.#database.exec(sql)
    this.#statements.push(sql)
  }

  /** The rowid of the last row that was inserted. */
  run(sql: string, values: readonly Value[]): number {
    const { lastInsertRowid } = this.#database.run(sql, values as never)
    const parts = sql.split('?')
    this.#statements.push(parts.map((part, i) => part + (i < values.length ? literal(values[i] ?? null) : '')).join(''))
    return Number(lastInsertRowid)
  }

  close(): void {
    this.#database.close()
  }

  /** Makes the same database anew; `copy` is a shell command that copies its files before it is closed. */
  replay(path: string, copy: string): void {
    const script = [...this.#statements.map((sql) => `${sql};`), `.shell ${copy}`].join('\n')
    execFileSync('sqlite3', ['-bail', path], { input: script, stdio: ['pipe', 'ignore', 'inherit'] })
  }
}

function literal(value: Value): string {
  if (value === null) return 'NULL'
  if (typeof value === 'string') return `'${value.replaceAll("'", "''")}'`
  if (value instanceof Uint8Array) return `x'${Buffer.from(value).toString('hex')}'`
  return Number.isInteger(Number(value)) ? `${BigInt(value)}` : `${value}`
}
