import { execFileSync } from 'node:child_process'
import { randomFillSync } from 'node:crypto'
import { once } from 'node:events'
import { createWriteStream, readFileSync } from 'node:fs'
import { mkdtemp, open, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { FileSource } from '@lumbrin/core/io/file'
import { carve } from '@lumbrin/core/media/carving/carve'
import { makePictures } from '@lumbrin/standins/demo/photos'
import { Random } from '@lumbrin/standins/random'
import sqlite from 'node-sqlite3-wasm'
import { build, buildBinary } from 'plist'
import sharp from 'sharp'

export interface Buried {
  kind: string
  start: number
  end: number
}

/** Buries whole files in mixed bytes and digs them out again: recall, false whole ones, speed beside reading. `carving [MB]`. */
export async function benchCarving([megabytes = '2000']: string[]): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-bench-carving-'))
  try {
    const path = join(folder, 'mixed.img')
    const buried = await bury(path, Number(megabytes) << 20, anyOf(await samples(folder)))
    await dig(path, buried)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function samples(folder: string): Promise<[string, Uint8Array][]> {
  const pictures = await makePictures(12, new Date('2026-11-14T20:15:00Z'), 9)
  const all: [string, Uint8Array][] = pictures.map(({ jpeg }) => ['JPEG', jpeg])
  const [first] = pictures
  if (!first) return all
  all.push(['PNG', await sharp(first.jpeg).resize(300).png().toBuffer()])
  all.push(['GIF', await sharp(first.jpeg).resize(200).gif().toBuffer()])
  await sharp(first.jpeg).png().toFile(join(folder, 'a.png'))
  execFileSync('heif-enc', ['-q', '60', '-o', join(folder, 'a.heic'), join(folder, 'a.png')], { stdio: 'ignore' })
  all.push(['HEIC', readFileSync(join(folder, 'a.heic'))])
  const database = new sqlite.Database(join(folder, 'a.db'))
  database.exec('CREATE TABLE t (a TEXT); BEGIN')
  for (let i = 0; i < 500; i++) database.run('INSERT INTO t VALUES (?)', [`a line of the play, number ${i}`])
  database.exec('COMMIT')
  database.close()
  all.push(['SQLite', readFileSync(join(folder, 'a.db'))])
  const list = { Title: 'a list', Lines: Array.from({ length: 200 }, (_, i) => `line ${i}`) }
  all.push(['binary list', buildBinary(list)], ['XML list', Buffer.from(build(list))], ['WAV', wav()])
  return all
}

/** One second of a tone, as RIFF/WAVE. */
function wav(): Buffer {
  const samples = 8000
  const bytes = Buffer.alloc(44 + samples * 2)
  bytes.write('RIFF', 0, 'latin1')
  bytes.writeUInt32LE(bytes.length - 8, 4)
  bytes.write('WAVEfmt ', 8, 'latin1')
  bytes.writeUInt32LE(16, 16)
  for (const [at, value] of [
    [20, 1],
    [22, 1],
    [32, 2],
    [34, 16],
  ] as const)
    bytes.writeUInt16LE(value, at)
  bytes.writeUInt32LE(samples, 24)
  bytes.writeUInt32LE(samples * 2, 28)
  bytes.write('data', 36, 'latin1')
  bytes.writeUInt32LE(samples * 2, 40)
  for (let i = 0; i < samples; i++) bytes.writeInt16LE(Math.round(9000 * Math.sin(i / 6)), 44 + i * 2)
  return bytes
}

/** The same few files again and again. */
function* anyOf(files: [string, Uint8Array][]): Generator<[string, Uint8Array]> {
  for (const random = new Random(18); ; ) yield random.pick(files)
}

/** Writes files with other bytes between them, up to a size. */
export async function bury(path: string, size: number, files: Iterable<[string, Uint8Array]>): Promise<Buried[]> {
  const random = new Random(17)
  const out = createWriteStream(path)
  const buried: Buried[] = []
  let at = 0
  const write = async (bytes: Uint8Array) => {
    at += bytes.byteLength
    if (!out.write(bytes)) await once(out, 'drain')
  }
  for (const [kind, bytes] of files) {
    await write(filler(random))
    buried.push({ kind, start: at, end: at + bytes.byteLength })
    await write(bytes)
    if (at >= size) break
  }
  while (at < size) await write(filler(random))
  out.end()
  await finished(out)
  return buried
}

/** Noise, nothing, or words: what lies between files. */
function filler(random: Random): Uint8Array {
  const bytes = Buffer.alloc(random.int(10_000, 2_000_000))
  const kind = random.int(0, 2)
  if (kind === 0) return randomFillSync(bytes)
  return kind === 1 ? bytes : bytes.fill('The curtain opens left. ')
}

/** Carves, and tells what was found of what was buried. */
export async function dig(path: string, buried: Buried[]): Promise<void> {
  const { size } = await stat(path)
  const reading = await seconds(async () => {
    const file = await open(path)
    const piece = Buffer.alloc(1 << 20)
    for (let at = 0; at < size; at += piece.length) await file.read(piece, 0, piece.length, at)
    await file.close()
  })
  const source = await FileSource.open(path)
  const whole = new Set<string>()
  let peak = 0
  const carving = await seconds(async () => {
    for await (const one of carve(source, () => {}, 0)) {
      if (one.wholeness === 'whole') whole.add(`${one.start}-${one.end}`)
      peak = Math.max(peak, process.memoryUsage.rss())
    }
  })
  await source.close()
  const found = buried.filter(({ start, end }) => whole.has(`${start}-${end}`))
  for (const kind of new Set(buried.map((one) => one.kind))) {
    const of = (list: Buried[]) => list.filter((one) => one.kind === kind).length
    if (of(found) < of(buried)) console.log(`${kind}: ${of(found)} of ${of(buried)}`)
  }
  const inside = (start: number, end: number) => buried.some((one) => start >= one.start && end <= one.end)
  const wrong = [...whole].filter((range) => {
    const [start = 0, end = 0] = range.split('-').map(Number)
    return !inside(start, end)
  })
  console.log(
    `${(size / 1e9).toFixed(2)} GB: ${found.length} of ${buried.length} whole files found to the byte, ${wrong.length} whole ones that are none`,
  )
  console.log(
    `carved in ${carving.toFixed(1)} s, read alone in ${reading.toFixed(1)} s: ${(reading / carving).toFixed(2)} of the reading speed; memory ${Math.round(peak / 1e6)} MB`,
  )
}

async function seconds(work: () => Promise<void>): Promise<number> {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}
