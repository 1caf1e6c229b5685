import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { type Dirent, readdirSync, readFileSync, statSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { MemorySource } from '@lumbrin/core/io/source'
import { exifDate, readPictureMetadata } from '../packages/core/src/media/exif.js'
import { bury, dig } from './carving.js'

// Where packages of Debian and of the registry put their files.
const PLACES = ['/usr/share', '/usr/lib', '/var/lib/dpkg', 'node_modules']
const KINDS =
  /\.(jpe?g|png|gif|webp|tiff?|bmp|heic|avif|mp4|mov|webm|mkv|avi|wav|aif[fc]?|flac|og[ga]|opus|mp3|pdf|zip|jar|whl|docx|xlsx|od[ts]|epub|sqlite|db|rtf|vcf|ics|plist)$/i
const PICTURES = /\.(jpe?g|png|gif|webp|tiff?|heic|avif)$/i
const FEWEST_BYTES = 300
const MOST_BYTES = 8 << 20

/**
 * Files that nobody here wrote: `foreign [FILES [MB]]`. As many different ones as are asked for are taken from packages on
 * this machine, kind by kind in turn. They are buried in mixed bytes and carved; and what pictures say of themselves is held
 * against exiftool.
 */
export async function benchForeign([many = '500', megabytes = '1000']: string[]): Promise<void> {
  const files = inTurn(foreignFiles(), Number(many))
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-bench-foreign-'))
  try {
    const path = join(folder, 'mixed.img')
    const contents = files.map((file): [string, Uint8Array] => [kindOf(file), readFileSync(file)])
    console.log(`${files.length} files: ${countsOf(files)}`)
    await dig(path, await bury(path, Number(megabytes) << 20, contents))
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
  await comparePictures(files.filter((file) => PICTURES.test(file)))
}

const kindOf = (file: string) => file.slice(file.lastIndexOf('.') + 1).toLowerCase()

function countsOf(files: readonly string[]): string {
  const counts = new Map<string, number>()
  for (const file of files) counts.set(kindOf(file), (counts.get(kindOf(file)) ?? 0) + 1)
  return [...counts].map(([kind, count]) => `${count} ${kind}`).join(', ')
}

/** All files of known kinds, each content once; ours are left out. */
function* foreignFiles(): Generator<string> {
  const seen = new Set<string>()
  for (const place of PLACES)
    for (const path of below(place)) {
      const { size } = statSync(path)
      if (size < FEWEST_BYTES || size > MOST_BYTES) continue
      const bytes = readFileSync(path)
      // Other databases end so too.
      if (path.endsWith('.db') && !bytes.toString('latin1', 0, 16).startsWith('SQLite format 3')) continue
      const sum = createHash('sha256').update(bytes).digest('hex')
      if (seen.has(sum)) continue
      seen.add(sum)
      yield path
    }
}

function* below(folder: string): Generator<string> {
  let entries: Dirent[] = []
  try {
    entries = readdirSync(folder, { withFileTypes: true })
  } catch {
    return
  }
  for (const entry of entries) {
    const path = join(folder, entry.name)
    if (entry.isDirectory() && entry.name !== '@lumbrin') yield* below(path)
    else if (entry.isFile() && KINDS.test(entry.name)) yield path
  }
}

/** So many files, one of each kind after the other, so that no kind takes the place of all others. */
function inTurn(files: Iterable<string>, many: number): string[] {
  const byKind = new Map<string, string[]>()
  for (const file of files) byKind.set(kindOf(file), [...(byKind.get(kindOf(file)) ?? []), file])
  const taken: string[] = []
  for (let round = 0; taken.length < many; round++) {
    const next = [...byKind.values()].flatMap((list) => list[round] ?? [])
    if (next.length === 0) break
    taken.push(...next.slice(0, many - taken.length))
  }
  return taken
}

interface Theirs {
  SourceFile: string
  [tag: string]: string | number | undefined
}

/** Date, size and camera of each picture, beside exiftool's. */
async function comparePictures(files: readonly string[]): Promise<void> {
  const options = ['-json', '-n', '-fast']
  const said: Theirs[] = JSON.parse(execFileSync('exiftool', [...options, ...files], { maxBuffer: 1 << 28 }).toString())
  let right = 0
  for (const theirs of said) {
    const ours = await readPictureMetadata(new MemorySource(readFileSync(theirs.SourceFile)))
    const isTurned = !/\.(heic|avif)$/.test(theirs.SourceFile) && Number(theirs.Orientation ?? 1) >= 5
    const size = [theirs.ImageWidth, theirs.ImageHeight]
    const offset = theirs.OffsetTimeOriginal ?? theirs.OffsetTime
    const wanted = {
      size: (isTurned ? size.reverse() : size).join('x'),
      camera: [theirs.Make, theirs.Model].filter(Boolean).join(' ') || null,
      date: exifDate(theirs.DateTimeOriginal, typeof offset === 'string' ? offset : null)?.toISOString() ?? null,
    }
    const got = {
      size: `${ours?.width}x${ours?.height}`,
      camera: ours?.camera ?? null,
      date: theirs.DateTimeOriginal === undefined ? null : (ours?.takenAt?.toISOString() ?? null),
    }
    if (JSON.stringify(wanted) === JSON.stringify(got)) right++
    else console.log(`${theirs.SourceFile}: exiftool ${JSON.stringify(wanted)}, ours ${JSON.stringify(got)}`)
  }
  console.log(`${right} of ${said.length} pictures say what exiftool reads`)
}
