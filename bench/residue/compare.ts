import { execFileSync } from 'node:child_process'
import { createReadStream, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { makeBig } from './big.js'
import { makeUsed, type UsedShape } from './used.js'

/** Databases to compare over, and what each row of theirs is told by, live and lost. */
const KINDS = {
  big: { column: 'guid', table: 'message', pattern: /[0-9A-F]{8}-[0-9A-F]{4}-[0-9A-F]{4}-[0-9A-F]{4}-[0-9A-F]{12}/ },
  messages: { column: 'guid', table: 'message', pattern: /[0-9A-F]{8}-[0-9A-F]{4}-[0-9A-F]{4,}/ },
  photos: { column: 'uuid', table: 'asset', pattern: /[0-9A-F]{8}-[0-9A-F]{8}-[0-9A-F]{4}/ },
  web: { column: 'url', table: 'page', pattern: /https:\/\/[a-z0-9]+\.example\/[0-9]+\/[^'"]*/ },
}
type Told = (typeof KINDS)[keyof typeof KINDS]

/**
 * Side by side with the SQLite shell's own .recover, whole processes in one run:
 * `npm run bench -- recover SHELL [MB] [messages | photos | web | big] [page size]`.
 * SHELL is a sqlite3 that has the sqlite_dbpage module (Debian's own answers with an error), or `none`: ours alone. `big` has
 * rows deleted by tens; the others are as years of use leave them.
 */
export async function benchRecover(words: string[]): Promise<void> {
  const [shell = 'sqlite3', megabytes = '200', kind = 'messages', pageSize = '4096'] = words
  const told = KINDS[kind as keyof typeof KINDS]
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-recover-'))
  const path = join(folder, 'big.db')
  if (kind === 'big') makeBig(path, Number(megabytes))
  else makeUsed(path, { kind, megabytes: Number(megabytes), pageSize: Number(pageSize) } as UsedShape)
  const ours = timed(() =>
    execFileSync('/usr/bin/time', ['-f', '%M', '-o', join(folder, 'memory'), ...oursOf(folder, path)]),
  )
  const size = statSync(path).size / 1e6
  const rebuilt = await rowsIn(join(folder, 'ours.jsonl'), told)
  const memory = Number(readFileSync(join(folder, 'memory'), 'utf8')) / 1000
  console.log(
    `${kind}, ${Math.round(size)} MB: residue ${ours.toFixed(1)} s (${(size / ours).toFixed(0)} MB/s), ${rebuilt.rows} rows, ${memory.toFixed(0)} MB of memory`,
  )
  if (shell !== 'none') compareRows(shell, folder, path, told, { ours, size, rebuilt: rebuilt.keys })
  rmSync(folder, { recursive: true, force: true })
}

const oursOf = (folder: string, path: string) => [
  process.execPath,
  'packages/cli/bin/lumbrin.mjs',
  'residue',
  path,
  '--out',
  join(folder, 'ours.jsonl'),
]

async function rowsIn(file: string, { pattern }: Told): Promise<{ rows: number; keys: Set<string> }> {
  const keys = new Set<string>()
  let rows = 0
  // Too long for one string where the database is large.
  for await (const line of createInterface(createReadStream(file))) {
    rows++
    const key = pattern.exec(line)?.[0]
    if (key) keys.add(key)
  }
  return { rows, keys }
}

function compareRows(
  shell: string,
  folder: string,
  path: string,
  { pattern, table, column }: Told,
  { ours, size, rebuilt }: { ours: number; size: number; rebuilt: Set<string> },
): void {
  const script = join(folder, 'theirs.sql')
  const theirs = timed(() => execFileSync('sh', ['-c', '"$0" "$1" .recover > "$2"', shell, path, script]))
  const live = new Set(
    execFileSync(shell, [path, `SELECT ${column} FROM ${table}`], { maxBuffer: 2 ** 30 })
      .toString()
      .split('\n'),
  )
  let lost = 0
  let missed = 0
  for (const line of readFileSync(script, 'latin1').split('\n')) {
    // Rows that .recover could not tie to a table stand in a table of its own making.
    if (!/^INSERT INTO "?lost_and_found/.test(line)) continue
    lost++
    const key = pattern.exec(line)?.[0]
    if (key && !live.has(key) && !rebuilt.has(key)) missed++
  }
  console.log(
    `        .recover ${theirs.toFixed(1)} s (${(size / theirs).toFixed(0)} MB/s), ${lost} lost rows without a table, of which ${missed} are not among ours`,
  )
  console.log(`speed as a ratio to .recover: ${(theirs / ours).toFixed(2)}`)
}

function timed(work: () => unknown): number {
  const started = performance.now()
  work()
  return (performance.now() - started) / 1000
}
