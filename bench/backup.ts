import { execFileSync } from 'node:child_process'
import { createCipheriv, randomBytes } from 'node:crypto'
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { DecryptedSource } from '@lumbrin/core/backup/decrypted'
import { openBackup } from '@lumbrin/core/backup/open'
import { FileSource } from '@lumbrin/core/io/file'
import { chunksOf } from '@lumbrin/core/io/source'

/**
 * Encrypted files against OpenSSL's command line, and the opening of a large backup against SQLite's shell, in one run:
 * `npm run bench -- backup [MB] [ENTRIES]`.
 */
export async function benchBackup(words: string[]): Promise<void> {
  const [megabytes = '1000', entries = '200000'] = words
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-backup-'))
  try {
    await benchDecryption(folder, Number(megabytes))
    await benchOpening(folder, Number(entries))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  console.log(`memory at the end ${Math.round(process.resourceUsage().maxRSS / 1000)} MB at most`)
}

async function benchDecryption(folder: string, megabytes: number): Promise<void> {
  const key = randomBytes(32)
  const path = join(folder, 'sealed')
  const cipher = createCipheriv('aes-256-cbc', key, Buffer.alloc(16))
  const part = randomBytes(1_000_000)
  const file = openSync(path, 'w')
  for (let i = 0; i < megabytes; i++) writeSync(file, cipher.update(part))
  writeSync(file, cipher.final())
  closeSync(file)
  const size = megabytes * 1e6
  const decrypt = async () => {
    const source = new DecryptedSource(await FileSource.open(path), key, size)
    let bytes = 0
    for await (const chunk of chunksOf(source)) bytes += chunk.length
    await source.close()
    if (bytes !== size) throw new Error(`${bytes} bytes came back of ${size}`)
  }
  const words = [
    'enc',
    '-d',
    '-aes-256-cbc',
    '-K',
    key.toString('hex'),
    '-iv',
    '0'.repeat(32),
    '-in',
    path,
    '-out',
    '/dev/null',
  ]
  const { ours, theirs } = await bestInTurns(decrypt, async () => execFileSync('openssl', words))
  console.log(
    `${megabytes} MB decrypted: ours ${ours.toFixed(2)} s, openssl ${theirs.toFixed(2)} s; speed as a ratio ${(theirs / ours).toFixed(2)}`,
  )
}

async function benchOpening(folder: string, entries: number): Promise<void> {
  const backup = join(folder, 'large')
  execFileSync(process.execPath, ['--import', 'tsx', 'bench/large-backup.ts', backup, `${entries}`])
  const open = async () => {
    const tree = await openBackup(backup, () => {})
    if (tree.fileCount < entries) throw new Error('entries are missing')
  }
  const script = `.output ${join(folder, 'rows')}\nSELECT * FROM Files;`
  const select = async () => execFileSync('sqlite3', [join(backup, 'Manifest.db')], { input: script })
  const { ours, theirs } = await bestInTurns(open, select)
  console.log(
    `${entries} entries: opened in ${ours.toFixed(2)} s, the shell selects all rows in ${theirs.toFixed(2)} s; ratio ${(ours / theirs).toFixed(2)}`,
  )
}

/** In turns, the best of three each: files were just written, and whoever comes first waits for the disk. */
async function bestInTurns(work: () => Promise<unknown>, peer: () => Promise<unknown>) {
  let ours = Infinity
  let theirs = Infinity
  for (let turn = 0; turn < 3; turn++) {
    theirs = Math.min(theirs, await timed(peer))
    ours = Math.min(ours, await timed(work))
  }
  return { ours, theirs }
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}
