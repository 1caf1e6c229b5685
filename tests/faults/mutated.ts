import { execFileSync } from 'node:child_process'
import { lstatSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { mutate } from '@lumbrin/standins/mutate'
import type { Random } from '@lumbrin/standins/random'

/** What is put in the place of a file: each would hold up, or fill up, whoever trusts it. */
const TRAPS: Record<string, (path: string) => void> = {
  pipe: (path) => replaced(path, () => execFileSync('mkfifo', [path])),
  'one terabyte of nothing': (path) => truncateSync(path, 2 ** 40),
  'entities that multiply': (path) => writeFileSync(path, multiplyingEntities()),
  'a hundred thousand lists in each other': (path) => writeFileSync(path, nested()),
  'a picture of four billion pixels': (path) => writeFileSync(path, pictureBomb()),
  'much that was packed small': (path) => writeFileSync(path, zipBomb()),
  'an empty file': (path) => truncateSync(path, 0),
}

function replaced(path: string, put: () => void): void {
  rmSync(path)
  put()
}

/**
 * Spoils every content file of a backup that lies in shelves: most by bytes that were changed, some by traps.
 * `traps`: the share of these. @returns how many were spoilt
 */
export function spoil(folder: string, random: Random, traps = 0.03): number {
  let count = 0
  for (const shelf of readdirSync(folder).filter((name) => /^[0-9a-f]{2}$/.test(name)))
    for (const name of readdirSync(join(folder, shelf))) {
      const path = join(folder, shelf, name)
      if (!lstatSync(path).isFile()) continue
      if (random.chance(traps)) TRAPS[random.pick(Object.keys(TRAPS))]?.(path)
      else writeFileSync(path, mutate(readFileSync(path), random))
      count++
    }
  return count
}

function multiplyingEntities(): string {
  const levels = Array.from({ length: 30 }, (_, i) => `<!ENTITY e${i + 1} "${`&e${i};`.repeat(10)}">`)
  return `<?xml version="1.0"?><!DOCTYPE plist [<!ENTITY e0 "laugh">${levels.join('')}]><plist><string>&e30;</string></plist>`
}

const nested = (): string =>
  `<?xml version="1.0"?><plist version="1.0">${'<array>'.repeat(100_000)}${'</array>'.repeat(100_000)}</plist>`

/** A PNG whose header promises 65,535 pixels a side (PNG specification, 11.2.2); its pixels are missing. */
function pictureBomb(): Buffer {
  const chunk = (name: string, content: Buffer) => {
    const head = Buffer.alloc(8)
    head.writeUInt32BE(content.length)
    head.write(name, 4, 'latin1')
    return Buffer.concat([head, content, Buffer.alloc(4)])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(65_535, 0)
  header.writeUInt32BE(65_535, 4)
  header.set([8, 6], 8)
  return Buffer.concat([
    Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'),
    chunk('IHDR', header),
    chunk('IDAT', deflateSync(Buffer.alloc(1 << 20))),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

let packed: Buffer | undefined

/** A quarter of a gigabyte of zeros as a stream of zlib (RFC 1950): some 250 kilobytes. */
function zipBomb(): Buffer {
  packed ??= deflateSync(Buffer.alloc(1 << 28))
  return packed
}
