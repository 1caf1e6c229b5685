import type { Knex } from 'knex'
import * as findings from './migrations/2026-11-23-findings.js'
import * as jobs from './migrations/2026-11-23-jobs.js'
import * as sources from './migrations/2026-11-23-sources.js'
import * as choosing from './migrations/2026-11-24-choosing.js'
import * as merging from './migrations/2026-11-24-merging.js'
import * as fetching from './migrations/2026-11-27-fetching.js'
import * as fingerprints from './migrations/2026-11-27-fingerprints.js'
import * as indices from './migrations/2026-11-27-indices.js'
import * as tray from './migrations/2026-11-27-tray.js'
import * as trayBlocks from './migrations/2026-11-27-tray-blocks.js'
import * as claims from './migrations/2026-11-30-claims.js'
import * as indicesByDate from './migrations/2026-11-30-indices-by-date.js'
import * as logChain from './migrations/2026-11-30-log-chain.js'
import * as ownPlaces from './migrations/2026-11-30-own-places.js'
import * as copies from './migrations/2026-12-01-copies.js'
import * as enough from './migrations/2026-12-01-enough.js'
import * as handoverBytes from './migrations/2026-12-01-handover-bytes.js'
import * as notes from './migrations/2026-12-01-notes.js'
import * as removal from './migrations/2026-12-01-removal.js'
import * as timeZones from './migrations/2026-12-01-time-zones.js'
import * as bayRules from './migrations/2026-12-02-bay-rules.js'
import * as categoryLocks from './migrations/2026-12-02-category-locks.js'
import * as regularCopies from './migrations/2026-12-02-regular-copies.js'

// Names are stored in the database; they keep their order and never change.
const MIGRATIONS: { name: string; migration: Knex.Migration }[] = [
  { name: '2026-11-23-jobs', migration: jobs },
  { name: '2026-11-23-sources', migration: sources },
  { name: '2026-11-23-findings', migration: findings },
  { name: '2026-11-24-merging', migration: merging },
  { name: '2026-11-24-choosing', migration: choosing },
  { name: '2026-11-27-fetching', migration: fetching },
  { name: '2026-11-27-fingerprints', migration: fingerprints },
  { name: '2026-11-27-tray', migration: tray },
  { name: '2026-11-27-indices', migration: indices },
  { name: '2026-11-27-tray-blocks', migration: trayBlocks },
  { name: '2026-11-30-claims', migration: claims },
  { name: '2026-11-30-indices-by-date', migration: indicesByDate },
  { name: '2026-11-30-own-places', migration: ownPlaces },
  { name: '2026-12-01-enough', migration: enough },
  { name: '2026-12-01-time-zones', migration: timeZones },
  { name: '2026-12-01-removal', migration: removal },
  { name: '2026-12-01-notes', migration: notes },
  { name: '2026-11-30-log-chain', migration: logChain },
  { name: '2026-12-01-handover-bytes', migration: handoverBytes },
  { name: '2026-12-01-copies', migration: copies },
  { name: '2026-12-02-bay-rules', migration: bayRules },
  { name: '2026-12-02-regular-copies', migration: regularCopies },
  { name: '2026-12-02-category-locks', migration: categoryLocks },
]

const latest = (db: Knex): Promise<unknown> =>
  db.migrate.latest({
    migrationSource: {
      getMigrations: async () => MIGRATIONS,
      getMigrationName: ({ name }: (typeof MIGRATIONS)[number]) => name,
      getMigration: async ({ migration }: (typeof MIGRATIONS)[number]) => migration,
    },
  })

// Others may be at it on a large database.
const PATIENCE_SECONDS = 600

/**
 * Brings the database to the newest version, one process at a time. What a process left that was killed amid it is put
 * right: its lock is no longer meant, and a database that holds no job yet is made anew. Migrations are imported, so that a
 * bundle carries them.
 * @throws Error in words where a database with jobs cannot be brought to it
 */
export async function migrate(db: Knex): Promise<void> {
  await db.transaction(async (trx) => {
    // The database lets go of it when the connection ends, however it ends.
    const [[row]] = await trx.raw("SELECT GET_LOCK(CONCAT('lumbrin ', DATABASE()), ?) AS held", [PATIENCE_SECONDS])
    if (row.held !== 1)
      throw new Error('Another Lumbrin has been changing this database for ten minutes. Try again later.')
    try {
      await db.migrate.forceFreeMigrationsLock()
      await latest(db).catch((thrown: Error) => again(db, thrown))
    } finally {
      await trx.raw("SELECT RELEASE_LOCK(CONCAT('lumbrin ', DATABASE()))")
    }
  })
}

async function again(db: Knex, thrown: Error): Promise<void> {
  if (await holdsJobs(db))
    throw new Error(
      `The database could not be brought to this version: ${thrown.message} Nothing of its jobs was removed; bring back the newest backup ("npm run restore"), or the version that wrote it.`,
      { cause: thrown },
    )
  await dropTables(db)
  await latest(db)
}

const holdsJobs = async (db: Knex): Promise<boolean> =>
  (await db.schema.hasTable('jobs')) && (await db('jobs').first('id')) !== undefined

async function dropTables(db: Knex): Promise<void> {
  const names: string[] = await db('information_schema.tables')
    .whereRaw('table_schema = database()')
    .pluck('table_name')
  await db.transaction(async (trx) => {
    await trx.raw('SET FOREIGN_KEY_CHECKS = 0')
    for (const name of names) await trx.raw('DROP TABLE ??', name)
    await trx.raw('SET FOREIGN_KEY_CHECKS = 1')
  })
}
