import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildDemo } from '@lumbrin/standins/demo/build'
import type { TestProject } from 'vitest/node'

declare module 'vitest' {
  interface ProvidedContext {
    demoFolder: string
  }
}

// Each project of Vitest runs this in the same process, but loads its modules anew: a variable would not be shared.
const MADE = 'LUMBRIN_TEST_SOURCES'

/** A small version of the demo's sources, built once for all tests that read one. */
export default async function setup(project: TestProject) {
  const made = process.env[MADE]
  if (made !== undefined) return project.provide('demoFolder', made)
  const scratch = await mkdtemp(join(tmpdir(), 'lumbrin-test-'))
  const folder = join(scratch, 'sources')
  await buildDemo(folder, {
    messages: 500,
    lostMessages: 150,
    pictures: 24,
    items: 40,
    rounds: 20_000,
    protectedToo: true,
  })
  project.provide('demoFolder', folder)
  process.env[MADE] = folder
  return () => rm(scratch, { recursive: true, force: true })
}
