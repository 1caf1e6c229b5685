/** `npm test`: does all set-up and runs every check, on a fresh machine too. */
import { buildPrograms } from './setup/build.mjs'
import { installDatabase, installNodePackages, installTestTools } from './setup/packages.mjs'
import { withScratch } from './setup/scratch.mjs'
import { main, run, say } from './setup/shell.mjs'

const tool = (name) => [process.execPath, `node_modules/${name}`]

/** What needs no run of the product: all at once. */
const STATIC = [
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
]

/** One after the other: each needs the whole machine. */
const TESTS = [
  ['unit and integration tests', [...tool('vitest/vitest.mjs'), 'run']],
  ['browser tests', [...tool('@playwright/test/cli.js'), 'test', '--project', 'checks']],
]

/** Runs a check to its end, and says how long it took. `quiet`: what it says is shown only when it fails. */
async function check([name, [command, ...words]], env, quiet = false) {
  const began = Date.now()
  say(name)
  await run(command, words, { env, quiet })
  say(`${name}: ${Math.round((Date.now() - began) / 1000)} s`)
}

await main(async () => {
  await installNodePackages()
  await installDatabase()
  await installTestTools()
  await buildPrograms()
  await withScratch(async (folder) => {
    const env = { ASTRO_TELEMETRY_DISABLED: '1', TMPDIR: folder, LUMBRIN_TEST_DATA: `${folder}/browser` }
    await Promise.all(STATIC.map((one) => check(one, env, true)))
    for (const one of TESTS) await check(one, env)
  })
  say('all checks passed')
})
