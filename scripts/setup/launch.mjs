import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdirSync, statfsSync } from 'node:fs'
import { createServer } from 'node:net'
import { homedir } from 'node:os'
import { delimiter, join, resolve } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { buildPrograms } from './build.mjs'
import { startDatabase } from './mariadb.mjs'
import { installNodePackages } from './packages.mjs'
import { ROOT, SetupError, say } from './shell.mjs'

const MIN_FREE_BYTES = 1 << 30

/**
 * Does all set-up and runs the application until Ctrl-C: database, server, background reader.
 * `before` runs once the programs are built and gives more environment for them, and what to stop after them; `ready` once
 * the server answers: it gets what asks the server as one of our own programs.
 */
export async function launch({
  data = process.env.LUMBRIN_DATA ?? join(homedir(), '.local/share/lumbrin'),
  roots = [],
  before = async () => ({ env: {}, stop: async () => {} }),
  ready = async () => {},
}) {
  // What is written is for this user alone; the programs inherit it.
  process.umask(0o077)
  const port = Number(process.env.LUMBRIN_PORT ?? 4680)
  const secret = randomBytes(32).toString('hex')
  const folder = resolve(data)
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  requireSpace(folder)
  await requirePort(port)
  await installNodePackages()
  await buildPrograms()
  const companions = await before()
  const database = process.env.LUMBRIN_DATABASE_URL
    ? { url: process.env.LUMBRIN_DATABASE_URL, stop: async () => {} }
    : await startDatabase(join(folder, 'database'))
  const env = {
    ...process.env,
    NODE_ENV: 'production',
    LUMBRIN_DATA: folder,
    LUMBRIN_PORT: String(port),
    LUMBRIN_READER_SECRET: secret,
    LUMBRIN_DATABASE_URL: database.url,
    LUMBRIN_MEDIA_PROGRAM: join(ROOT, 'apps/workbench/dist/media.mjs'),
    LUMBRIN_ROOTS: process.env.LUMBRIN_ROOTS ?? [homedir(), ...roots].join(delimiter),
    ...companions.env,
  }
  const programs = [startProgram('main', env), startProgram('reader', env)]
  const ask = (path, request = {}) =>
    fetch(`http://127.0.0.1:${port}${path}`, {
      ...request,
      headers: { 'content-type': 'application/json', 'x-lumbrin-secret': secret },
    })
  answering(ask)
    .then(() => ready(ask))
    .catch((error) => say(`the first job could not be made: ${error.message}`))
  await runTogether(programs, database, companions)
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

function requirePort(port) {
  return new Promise((done, reject) => {
    const server = createServer()
    server.on('error', () =>
      reject(
        new SetupError(
          `Port ${port} is in use. Stop what uses it (perhaps another Lumbrin), or set LUMBRIN_PORT to another one.`,
        ),
      ),
    )
    server.listen(port, '127.0.0.1', () => server.close(done))
  })
}

// Detached, so that Ctrl-C reaches us alone and everything stops in the right order.
const startProgram = (name, env) =>
  spawn(process.execPath, ['--enable-source-maps', join(ROOT, `apps/workbench/dist/${name}.mjs`)], {
    env,
    detached: true,
    stdio: ['ignore', 'inherit', 'inherit'],
  })

async function runTogether(programs, database, companions) {
  let stopping = false
  const signal = new Promise((done) => {
    for (const name of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(name, () => done(0))
  })
  const ends = programs.map((program) => new Promise((done) => program.once('exit', (code) => done(code ?? 1))))
  const code = await Promise.race([signal, ...ends, database.ended?.then(() => 1) ?? new Promise(() => {})])
  stopping = true
  say(code === 0 ? 'stopping' : 'a part of the application ended by itself; stopping the rest')
  for (const program of programs) program.kill('SIGTERM')
  const grace = setTimeout(() => stopping && programs.forEach((program) => void program.kill('SIGKILL')), 10_000)
  await Promise.all(ends)
  clearTimeout(grace)
  await companions.stop()
  await database.stop()
  say('stopped')
  process.exit(code)
}
