import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { startDatabase } from '../../scripts/setup/mariadb.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
  }
}

/** A MariaDB of its own for the integration tests. */
export default async function setup(project: TestProject) {
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-test-db-'))
  const database = await startDatabase(folder, 'lumbrin_test', { lasting: false })
  project.provide('databaseUrl', database.url)
  return async () => {
    await database.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
