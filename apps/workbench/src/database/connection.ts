import knex, { type Knex } from 'knex'
import { readConfig } from '../config.js'

export type Db = Knex

/**
 * Opens a pool of connections. No charset is given on purpose: with one, tables would be made with its default
 * collation, in which all emoji are equal.
 */
export function connect(url: string): Db {
  const { hostname, port, username, password, pathname } = new URL(url)
  const db = knex({
    client: 'mysql2',
    connection: {
      host: hostname,
      port: Number(port || 3306),
      user: decodeURIComponent(username),
      password: decodeURIComponent(password),
      database: pathname.slice(1),
      timezone: 'Z',
      supportBigNumbers: true,
    },
    pool: { min: 0, max: 10 },
  })
  db.on('query-error', withoutValues)
  return db
}

/** Takes out of an error what a statement was given: errors are stored and printed, and those are owners' texts. */
function withoutValues(error: Error & { code?: string; sql?: string; sqlMessage?: string }): void {
  error.message = isConnectionLoss(error)
    ? `The connection to the database was lost (${error.code}).`
    : `The database refused a statement (${error.code ?? error.name}).`
  error.stack = `${error.name}: ${error.message}\n${error.stack?.replace(/^[\s\S]*?\n(?= {4}at )/, '') ?? ''}`
  delete error.sql
  delete error.sqlMessage
}

let shared: Db | undefined

/** The process's own pool, opened at first use. */
export function database(): Db {
  shared ??= connect(readConfig().databaseUrl)
  return shared
}

const MOST_TRIES = 5
const CROSSED = new Set(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT'])

/**
 * One transaction. Where two wait for each other, or one waits too long, the database ends one of them, and it is done again:
 * what is worked out must be worked out inside.
 */
export async function transact<T>(
  db: Db,
  work: (trx: Knex.Transaction) => Promise<T>,
  config: Knex.TransactionConfig = {},
): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await db.transaction(work, config)
    } catch (thrown) {
      if (!CROSSED.has((thrown as { code?: string }).code ?? '') || tries === MOST_TRIES) throw thrown
    }
}

/**
 * The same, where each statement sees what other transactions have committed by then. Under MariaDB's default (repeatable
 * read) all of them would see the state of the first one, which may be from before a lock was obtained.
 */
export const transactLatest = <T>(db: Db, work: (trx: Knex.Transaction) => Promise<T>): Promise<T> =>
  transact(db, work, { isolationLevel: 'read committed' })

/** Runs `INSERT … RETURNING`, which Knex does not offer for MariaDB. @returns the named columns of each inserted row */
export async function insertReturning<Row>(
  trx: Db,
  insertion: Knex.QueryBuilder,
  columns: readonly (keyof Row & string)[],
): Promise<Row[]> {
  const [rows] = await trx.raw(`? RETURNING ${columns.map(() => '??').join(', ')}`, [insertion, ...columns])
  return rows
}

const LOST = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'PROTOCOL_ENQUEUE_AFTER_FATAL_ERROR',
  'ER_SERVER_SHUTDOWN',
  'ER_QUERY_INTERRUPTED',
  'ER_CONNECTION_KILLED',
])

/** True for errors that say that the database is away, and nothing of the question it was asked. */
export function isConnectionLoss(thrown: unknown): boolean {
  if (!(thrown instanceof Error)) return false
  return LOST.has((thrown as NodeJS.ErrnoException).code ?? '') || thrown.name === 'KnexTimeoutError'
}

// The class of SQLSTATE (ISO/IEC 9075) that speaks of values alone: 22, data exception.
const OF_DATA = /^22/
// Errors of MariaDB about values in other classes: no value where one must be, a text that is not of the column's character
// set, a statement that is too long, a check of a column (JSON) that fails. Not a key that is there already, nor a row that
// is gone: those speak of what others did meanwhile.
const ALSO_OF_DATA = new Set([1048, 1366, 1153, 4025])

/** True for errors that say that the database does not take a value, now or later. */
export function isRefusal(thrown: unknown): boolean {
  const { errno = 0, sqlState = '' } = (thrown ?? {}) as { errno?: number; sqlState?: string }
  return OF_DATA.test(sqlState) || ALSO_OF_DATA.has(errno)
}
