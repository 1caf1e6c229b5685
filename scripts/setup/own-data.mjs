import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  createReadStream,
  createWriteStream,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  writeFileSync,
} from 'node:fs'
import { copyFile } from 'node:fs/promises'
import { dirname, join, relative } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { createGunzip, createGzip } from 'node:zlib'
import { socketOf, startDatabase } from './mariadb.mjs'
import { findProgram } from './packages.mjs'
import { SetupError, say } from './shell.mjs'

/** What a backup of Lumbrin's own data holds: the database, the files of the data folder, and a list of both. */
const DUMP = 'database.sql.gz'
const FILES = 'files'
const LIST = 'SHA256SUMS'

/** What belongs to a process that runs, or is in the dump. */
const LEFT_OUT = new Set(['database', 'running', 'address'])

/** Saves the database and the files of a data folder into a new folder, and reads all of it back. */
export async function saveOwnData(data, to) {
  requireEmpty(to)
  mkdirSync(join(to, FILES), { recursive: true, mode: 0o700 })
  await withDatabase(data, (socket) => dump(socket, join(to, DUMP)))
  const files = filesBelow(data).filter((path) => !LEFT_OUT.has(path.split('/')[0]))
  for (const path of files) await copyInto(join(data, path), join(to, FILES, path))
  const sums = []
  for (const path of [DUMP, ...files.map((one) => `${FILES}/${one}`)])
    sums.push(`${await sha256(join(to, path))}  ${path}`)
  writeFileSync(join(to, LIST), `${sums.join('\n')}\n`, { mode: 0o600 })
  await verify(to)
  // What was copied must also be what lies in the data folder.
  for (const path of files)
    if ((await sha256(join(data, path))) !== (await sha256(join(to, FILES, path))))
      say(`"${path}" changed while it was saved; what the copy holds is whole, but may be older`)
  return files.length
}

/** Brings a saved folder back into a data folder in which there is nothing. */
export async function bringOwnData(from, data) {
  if (!existsSync(join(from, LIST)))
    throw new SetupError(`"${from}" holds no backup of Lumbrin's data: ${LIST} is not in it.`)
  if (existsSync(data) && readdirSync(data).some((name) => name !== 'running'))
    throw new SetupError(`There is data in ${data} already. Move it away first, or set LUMBRIN_DATA to a new folder.`)
  const paths = await verify(from)
  mkdirSync(data, { recursive: true, mode: 0o700 })
  const files = paths.filter((path) => path.startsWith(`${FILES}/`))
  for (const path of files) await copyInto(join(from, path), join(data, relative(FILES, path)))
  await withDatabase(data, (socket) => load(socket, join(from, DUMP)))
  return files.length
}

function requireEmpty(folder) {
  if (existsSync(folder) && readdirSync(folder).length > 0)
    throw new SetupError(`"${folder}" is not empty. Nothing was written; name a new folder for each backup.`)
}

/** The paths of a backup whose files are all as its list says. */
async function verify(folder) {
  const lines = readFileSync(join(folder, LIST), 'utf8').trim().split('\n')
  const paths = []
  for (const line of lines) {
    const [, sum, path] = /^([0-9a-f]{64}) {2}(.+)$/.exec(line) ?? []
    if (!path || path.split('/').includes('..'))
      throw new SetupError(`The list of the backup in "${folder}" is damaged.`)
    if ((await sha256(join(folder, path)).catch(() => '')) !== sum)
      throw new SetupError(`"${path}" of the backup in "${folder}" is not as its list says: the backup is damaged.`)
    paths.push(path)
  }
  return paths
}

/** Works with the database of a data folder, whether Lumbrin runs or not. */
async function withDatabase(data, work) {
  const folder = join(data, 'database')
  const running = socketOf(folder)
  if (running) return work(running)
  const database = await startDatabase(folder)
  try {
    return await work(socketOf(folder))
  } finally {
    await database.stop()
  }
}

const DATABASE = 'lumbrin'

async function dump(socket, to) {
  const words = ['--no-defaults', `--socket=${socket}`, '--single-transaction', '--quick', '--hex-blob', '--triggers']
  const child = spawn(findProgram('mariadb-dump'), [...words, DATABASE], { stdio: ['ignore', 'pipe', 'pipe'] })
  const ended = endOf(child, 'The database could not be saved')
  await pipeline(child.stdout, createGzip(), createWriteStream(to, { mode: 0o600 }))
  await ended
}

async function load(socket, from) {
  const child = spawn(findProgram('mariadb'), ['--no-defaults', `--socket=${socket}`, DATABASE], {
    stdio: ['pipe', 'ignore', 'pipe'],
  })
  const ended = endOf(child, 'The database could not be brought back')
  await Promise.all([pipeline(createReadStream(from), createGunzip(), child.stdin), ended])
}

function endOf(child, words) {
  const said = []
  child.stderr.on('data', (piece) => said.push(piece))
  return new Promise((go, fail) => {
    child.once('error', fail)
    child.once('close', (code) => (code === 0 ? go() : fail(new SetupError(`${words}: ${Buffer.concat(said)}`))))
  })
}

const filesBelow = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)).replaceAll('\\', '/'))

async function copyInto(from, to) {
  mkdirSync(dirname(to), { recursive: true, mode: 0o700 })
  await copyFile(from, to)
}

async function sha256(path) {
  const hash = createHash('sha256')
  await pipeline(createReadStream(path), hash)
  return hash.digest('hex')
}
