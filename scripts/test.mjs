/** `npm test`: does all set-up and runs every check, on a fresh machine too. */
import { buildPrograms } from './setup/build.mjs'
import { installDatabase, installNodePackages, installTestTools } from './setup/packages.mjs'
import { withScratch } from './setup/scratch.mjs'
import { main, run, say } from './setup/shell.mjs'

const tool = (name) => [process.execPath, `node_modules/${name}`]

const CHECKS = [
  ['format and lint', [...tool('@biomejs/biome/bin/biome'), 'ci', '--error-on-warnings', '.']],
  [
    'import directions',
    [
      ...tool('dependency-cruiser/bin/dependency-cruise.mjs'),
      'packages',
      'apps',
      '--config',
      '.dependency-cruiser.cjs',
    ],
  ],
  ['types', [...tool('typescript/bin/tsc'), '-p', '.']],
  ['types of pages', [...tool('astro/astro.js'), 'check', '--root', 'apps/workbench', '--minimumSeverity', 'warning']],
  ['unit and integration tests', [...tool('vitest/vitest.mjs'), 'run']],
  ['browser tests', [...tool('@playwright/test/cli.js'), 'test', '--project', 'checks']],
]

await main(async () => {
  await installNodePackages()
  await installDatabase()
  await installTestTools()
  await buildPrograms()
  await withScratch(async (folder) => {
    const env = { ASTRO_TELEMETRY_DISABLED: '1', TMPDIR: folder, LUMBRIN_TEST_DATA: `${folder}/browser` }
    for (const [name, [command, ...words]] of CHECKS) {
      const began = Date.now()
      say(name)
      await run(command, words, { env })
      say(`${name}: ${Math.round((Date.now() - began) / 1000)} s`)
    }
  })
  say('all checks passed')
})
