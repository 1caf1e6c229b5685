import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { connect, type Db } from '../../apps/workbench/src/database/connection.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { startDatabase } from '../../scripts/setup/mariadb.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
    /** What makes the tables of a migrated database in an empty one: migrating each would take most of a test's time. */
    tables: string[]
  }
}

async function tablesOf(db: Db): Promise<string[]> {
  const statements: string[] = []
  const names: string[] = await db('information_schema.tables')
    .whereRaw('table_schema = database()')
    .pluck('table_name')
  for (const name of names) {
    const [[table]] = await db.raw('SHOW CREATE TABLE ??', name)
    statements.push(table['Create Table'])
  }
  const triggers: string[] = await db('information_schema.triggers')
    .whereRaw('trigger_schema = database()')
    .pluck('trigger_name')
  for (const name of triggers) {
    const [[trigger]] = await db.raw('SHOW CREATE TRIGGER ??', name)
    statements.push(String(trigger['SQL Original Statement']).replace(/DEFINER=\S+ /, ''))
  }
  const done = await db('knex_migrations').select('name', 'batch', 'migration_time')
  return [...statements, String(db('knex_migrations').insert(done)), 'INSERT INTO knex_migrations_lock VALUES (1, 0)']
}

/** A MariaDB of its own for the integration tests. */
export default async function setup(project: TestProject) {
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-test-db-'))
  const database = await startDatabase(folder, 'lumbrin_test', { lasting: false })
  const db = connect(database.url)
  await migrate(db)
  project.provide('databaseUrl', database.url)
  project.provide('tables', await tablesOf(db))
  await db.destroy()
  return async () => {
    await database.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
