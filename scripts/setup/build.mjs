import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT, run, say } from './shell.mjs'

const INPUTS = [
  'packages',
  'apps',
  'package-lock.json',
  'tsconfig.json',
  'scripts/setup/build.mjs',
  'scripts/setup/site.mjs',
  'scripts/setup/fonts.mjs',
]
const STAMP = join(ROOT, 'apps/workbench/dist/.inputs')

/** Builds what has changed since the last build: nothing, or everything. */
export async function buildPrograms({ force = false } = {}) {
  const inputs = fingerprint()
  if (!force && existsSync(STAMP) && readFileSync(STAMP, 'utf8') === inputs) return
  say('building the application')
  await buildCommandLine('packages/cli/dist')
  await buildStandIns()
  if (existsSync(join(ROOT, 'apps/workbench/astro.config.ts'))) {
    await run(process.execPath, ['node_modules/astro/astro.js', 'build', '--root', 'apps/workbench'], {
      env: { ASTRO_TELEMETRY_DISABLED: '1' },
      quiet: true,
    })
    await bundle('apps/workbench/src/server/main.ts', 'apps/workbench/dist/main.mjs')
    await bundle('apps/workbench/src/reader/main.ts', 'apps/workbench/dist/reader.mjs')
    await bundle('apps/workbench/src/media/main.ts', 'apps/workbench/dist/media.mjs')
    // In a process of its own: its builder sets what kind of build this is for all that follow.
    await run(process.execPath, ['scripts/setup/site.mjs'])
    writeFileSync(STAMP, inputs)
  }
}

/** The command line: its start and what each command needs beside it, which is loaded for that command alone. */
export async function buildCommandLine(folder) {
  rmSync(join(ROOT, folder), { recursive: true, force: true })
  await bundled({
    entryPoints: { lumbrin: join(ROOT, 'packages/cli/src/main.ts') },
    outdir: join(ROOT, folder),
    outExtension: { '.js': '.mjs' },
    splitting: true,
  })
}

/** What plays devices and services, and what makes the demo's sources. */
export async function buildStandIns() {
  for (const name of ['demo', 'device', 'cloud'])
    await bundle(`packages/standins/src/${name}/main.ts`, `packages/standins/dist/${name}/main.mjs`)
}

/** One program as one file. */
export const bundle = (from, to) => bundled({ entryPoints: [join(ROOT, from)], outfile: join(ROOT, to) })

// Of many small files, of which little is used: opening each of them would take a third of a program's start.
const GOES_IN = /^(@lumbrin|date-fns|@date-fns|zod|libphonenumber-js)(\/|$)/

/** Real npm packages stay outside but for those of `GOES_IN`, the workspace's own TypeScript goes in. */
async function bundled(what) {
  const { build } = await import('esbuild')
  await build({
    ...what,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    sourcemap: true,
    logLevel: 'warning',
    plugins: [
      {
        name: 'packages-outside',
        setup: (hooks) =>
          hooks.onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
            kind === 'entry-point' || GOES_IN.test(path) ? undefined : { path, external: true },
          ),
      },
    ],
  })
}

function fingerprint() {
  const hash = createHash('sha256')
  for (const input of INPUTS) addFiles(hash, join(ROOT, input))
  return hash.digest('hex')
}

function addFiles(hash, path) {
  const found = statSync(path)
  if (found.isFile()) return hash.update(path.slice(ROOT.length)).update(readFileSync(path))
  for (const name of readdirSync(path).sort())
    if (!['node_modules', 'dist', '.astro'].includes(name)) addFiles(hash, join(path, name))
}
