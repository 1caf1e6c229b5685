import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeBig } from './big.js'

/**
 * Side by side with the SQLite shell's own .recover, whole processes in one run: `npm run bench -- recover SHELL [MB]`.
 * SHELL is a sqlite3 that has the sqlite_dbpage module; Debian's own answers with an error.
 */
export async function benchRecover(words: string[]): Promise<void> {
  const [shell = 'sqlite3', megabytes = '200'] = words
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-recover-'))
  const path = join(folder, 'big.db')
  makeBig(path, Number(megabytes))
  const theirs = timed(() =>
    writeFileSync(join(folder, 'theirs.sql'), spawnSync(shell, [path, '.recover'], { maxBuffer: 2 ** 31 - 1 }).stdout),
  )
  const ours = timed(() =>
    execFileSync(process.execPath, [
      'packages/cli/bin/lumbrin.mjs',
      'residue',
      path,
      '--out',
      join(folder, 'ours.jsonl'),
    ]),
  )
  // Rows that .recover could not tie to a table stand in a table of its own making.
  const lost = readFileSync(join(folder, 'theirs.sql'), 'latin1').match(/INSERT INTO "?lost_and_found/g)?.length ?? 0
  const rebuilt = readFileSync(join(folder, 'ours.jsonl'), 'latin1').split('\n').length - 1
  const size = statSync(path).size / 1e6
  console.log(
    `${Math.round(size)} MB: .recover ${theirs.toFixed(1)} s (${(size / theirs).toFixed(0)} MB/s), ${lost} lost rows without a table`,
  )
  console.log(`        residue ${ours.toFixed(1)} s (${(size / ours).toFixed(0)} MB/s), ${rebuilt} rows`)
  console.log(`speed as a ratio to .recover: ${(theirs / ours).toFixed(2)}`)
  rmSync(folder, { recursive: true, force: true })
}

function timed(work: () => unknown): number {
  const started = performance.now()
  work()
  return (performance.now() - started) / 1000
}
