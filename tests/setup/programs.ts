import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { buildCommandLine, bundle } from '../../scripts/setup/build.mjs'
import { ROOT } from '../../scripts/setup/shell.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    /** The folder of the programs that tests start, as they are built for use: `reader.mjs`, `media.mjs`, `cli/lumbrin.mjs`. */
    programs: string
  }
}

/** Bundles programs from their sources, so that each of their many starts does not compile them anew. */
export default async function setup(project: TestProject) {
  // As deep below the root as the built ones, which look for their libraries from there.
  const folder = `.lumbrin/programs/${project.name}-${process.pid}`
  await buildCommandLine(`${folder}/cli`)
  for (const name of ['reader', 'media']) await bundle(`apps/workbench/src/${name}/main.ts`, `${folder}/${name}.mjs`)
  project.provide('programs', join(ROOT, folder))
  return () => rm(join(ROOT, folder), { recursive: true, force: true })
}
