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
]

/** Brings the database to the newest version. Migrations are imported, so that a bundle carries them. */
export async function migrate(db: Knex): Promise<void> {
  await db.migrate.latest({
    migrationSource: {
      getMigrations: async () => MIGRATIONS,
      getMigrationName: ({ name }: (typeof MIGRATIONS)[number]) => name,
      getMigration: async ({ migration }: (typeof MIGRATIONS)[number]) => migration,
    },
  })
}
