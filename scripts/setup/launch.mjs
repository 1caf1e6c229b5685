import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdirSync, statfsSync } from 'node:fs'
import { createServer } from 'node:net'
import { homedir } from 'node:os'
import { delimiter, join, resolve } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { buildPrograms, buildStandIns } from './build.mjs'
import { holdFolder } from './instance.mjs'
import { startDatabase } from './mariadb.mjs'
import { installNodePackages } from './packages.mjs'
import { ROOT, SetupError, say } from './shell.mjs'
import { bound, Supervisor } from './supervisor.mjs'

const built = (name) => ['--enable-source-maps', join(ROOT, `apps/workbench/dist/${name}.mjs`)]

/** The programs as they are built, for everybody but those who change them. */
const BUILT = {
  prepare: buildPrograms,
  env: {
    NODE_ENV: 'production',
    LUMBRIN_MEDIA_PROGRAM: join(ROOT, 'apps/workbench/dist/media.mjs'),
    LUMBRIN_SITE: join(ROOT, 'apps/workbench/dist/site'),
  },
  server: () => built('main'),
  reader: built('reader'),
}

/** The programs from their sources: pages change as they are edited, and the reader starts anew. */
export const FROM_SOURCES = {
  prepare: buildStandIns,
  env: {
    NODE_ENV: 'development',
    LUMBRIN_DEV: 'yes',
    ASTRO_TELEMETRY_DISABLED: '1',
    ASTRO_DISABLE_UPDATE_CHECK: 'true',
  },
  server: (port) => [
    ...['node_modules/astro/astro.js', 'dev', '--root', 'apps/workbench'],
    ...['--host', '127.0.0.1', '--port', String(port)],
  ],
  reader: ['--watch', '--import', 'tsx', 'apps/workbench/src/reader/main.ts'],
}

const MIN_FREE_BYTES = 1 << 30

/**
 * Does all set-up and runs the application until Ctrl-C: database, server, background reader. What dies comes back.
 * `before` runs once the programs are built and gives more environment for them, and parts that run beside them; `ready`
 * once the server answers: it gets what asks the server as one of our own programs.
 */
export async function launch({
  data = process.env.LUMBRIN_DATA ?? join(homedir(), '.local/share/lumbrin'),
  roots = [],
  before = async () => ({ env: {}, parts: [] }),
  ready = async () => {},
  programs = BUILT,
}) {
  // What is written is for this user alone; the programs inherit it.
  process.umask(0o077)
  const port = Number(process.env.LUMBRIN_PORT ?? 4680)
  const secret = randomBytes(32).toString('hex')
  const folder = resolve(data)
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  requireSpace(folder)
  const letGo = holdFolder(folder)
  await requirePort(port)
  await installNodePackages()
  await programs.prepare()
  const companions = await before()
  const database = process.env.LUMBRIN_DATABASE_URL
    ? { url: process.env.LUMBRIN_DATABASE_URL, clean: () => {} }
    : await startDatabase(join(folder, 'database'))
  const env = {
    ...process.env,
    LUMBRIN_DATA: folder,
    LUMBRIN_PORT: String(port),
    LUMBRIN_READER_SECRET: secret,
    LUMBRIN_DATABASE_URL: database.url,
    LUMBRIN_ROOTS: process.env.LUMBRIN_ROOTS ?? [homedir(), ...roots].join(delimiter),
    ...companions.env,
    ...programs.env,
  }
  const { promise: over, resolve: end } = ending()
  const supervisor = new Supervisor(() => end(1))
  if (database.again) supervisor.watch({ name: 'the database', start: startingWith(database.child, database.again) })
  for (const part of companions.parts) supervisor.watch(part)
  supervisor.watch({ name: 'the server', start: () => startProgram(programs.server(port), env) })
  supervisor.watch({ name: 'the reader', start: () => startProgram(programs.reader, env) })
  const ask = (path, request = {}) =>
    fetch(`http://127.0.0.1:${port}${path}`, {
      ...request,
      headers: { 'content-type': 'application/json', 'x-lumbrin-secret': secret },
    })
  answering(ask)
    .then(() => ready(ask))
    .catch((error) => say(`the first job could not be made: ${error.message}`))
  const code = await over
  say(code === 0 ? 'stopping' : 'stopping the rest')
  await supervisor.stop()
  database.clean()
  letGo()
  say('stopped')
  process.exit(code)
}

/** Resolves with an exit code once somebody ends us, or something cannot be kept running. */
function ending() {
  let resolve
  const promise = new Promise((go) => {
    resolve = go
  })
  for (const name of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(name, () => resolve(0))
  return { promise, resolve }
}

/** Gives what runs already, and starts anew from the second time on. */
export function startingWith(child, again) {
  let first = child
  return () => {
    const running = first ?? again()
    first = undefined
    return running
  }
}

function requireSpace(folder) {
  const { bavail, bsize } = statfsSync(folder)
  if (bavail * bsize < MIN_FREE_BYTES)
    throw new SetupError(
      `Less than 1 GiB is free at ${folder}. Make room, or set LUMBRIN_DATA to a folder on another disk.`,
    )
}

async function answering(ask) {
  for (let tries = 0; tries < 300; tries++) {
    const answer = await ask('/api/jobs').catch(() => undefined)
    if (answer?.ok) return
    await sleep(100)
  }
  throw new SetupError('the server does not answer')
}

/** Waits a moment for a port that a server which just ended may still hold. */
async function requirePort(port) {
  for (let tries = 0; tries < 20; tries++) {
    if (await isFree(port)) return
    await sleep(250)
  }
  throw new SetupError(
    `Port ${port} is in use. Stop what uses it (perhaps another Lumbrin), or set LUMBRIN_PORT to another one.`,
  )
}

const isFree = (port) =>
  new Promise((go) => {
    const server = createServer()
    server.on('error', () => go(false))
    server.listen(port, '127.0.0.1', () => server.close(() => go(true)))
  })

// Detached, so that Ctrl-C reaches us alone and everything stops in the right order.
function startProgram(program, env) {
  const [command, words] = bound(process.execPath, program)
  return spawn(command, words, { cwd: ROOT, env, detached: true, stdio: ['ignore', 'inherit', 'inherit'] })
}
