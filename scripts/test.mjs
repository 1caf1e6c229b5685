/** `npm test`: does all set-up and runs every check, on a fresh machine too. */
import { constants, setPriority } from 'node:os'
import { buildPrograms } from './setup/build.mjs'
import { installNodePackages, installTestTools } from './setup/packages.mjs'
import { withScratch } from './setup/scratch.mjs'
import { main, run, SetupError, say } from './setup/shell.mjs'

const tool = (name) => [process.execPath, `node_modules/${name}`]

/** What needs no run of the product. */
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
  // Code and pages in one program: each for itself would read the other's again.
  [
    'types',
    [
      ...tool('astro/astro.js'),
      ...['check', '--root', 'apps/workbench', '--tsconfig', '../../tsconfig.check.json'],
      ...['--minimumSeverity', 'warning'],
    ],
  ],
]

const browser = (project) => [...tool('@playwright/test/cli.js'), 'test', '--project', project]

/** A browser waits for the product most of the time: other tests go on meanwhile, on an application of their own. */
const TESTS = [
  ['unit and integration tests', [...tool('vitest/vitest.mjs'), 'run']],
  ['browser tests', browser('checks'), { LUMBRIN_TEST_PORT: '4781' }],
  [
    'browser tests of every kind of source',
    browser('rounds'),
    { LUMBRIN_TEST_PORT: '4782', LUMBRIN_TEST_DEMO: '--small' },
  ],
]

/** Runs checks to their ends, all at once. @throws SetupError with what those said that failed, when all have ended */
async function checkAll(checks, env) {
  const ended = await Promise.allSettled(checks.map((one) => check(one, env)))
  const failed = ended.flatMap(({ reason }) => reason ?? [])
  if (failed.length > 0) throw new SetupError(failed.map(({ message }) => message).join('\n'))
}

/** What a check says is shown when it has ended. */
async function check([name, [command, ...words], more = {}], env) {
  const began = Date.now()
  say(name)
  process.stdout.write(await run(command, words, { env: { ...env, ...more }, quiet: true }))
  say(`${name}: ${Math.round((Date.now() - began) / 1000)} s`)
}

// The reader gives way to whoever wants the processor. Among checks of normal priority it would hardly get any of it, and
// what waits for its work would take that for a hang.
setPriority(constants.priority.PRIORITY_BELOW_NORMAL)

await main(async () => {
  // The one waits for its network while the other unpacks.
  await Promise.all([installNodePackages(), installTestTools()])
  await buildPrograms()
  await withScratch(async (folder) => {
    const env = { ASTRO_TELEMETRY_DISABLED: '1', TMPDIR: folder, LUMBRIN_TEST_SCRATCH: folder }
    // Together, since hardly one of them has work for two cores from its beginning to its end.
    await checkAll([...STATIC, ...TESTS], env)
  })
  say('all checks passed')
})
