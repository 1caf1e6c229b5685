import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { apart, COPY_LIMITS } from '@lumbrin/core/media/fingerprint'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { fingerprintOf, shown } from './media-pool.js'

let jpeg: Buffer

beforeAll(async () => {
  process.env.LUMBRIN_DATABASE_URL ??= 'mysql://nobody@127.0.0.1/none'
  const svg = `<svg width="900" height="600"><rect width="900" height="600" fill="#bcd"/><circle cx="300" cy="250" r="160" fill="#a53"/></svg>`
  jpeg = await sharp(Buffer.from(svg)).jpeg().toBuffer()
})

/** A PNG (ISO/IEC 15948) that claims to be this large, of a few thousand bytes. */
function bomb(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
    const frame = Buffer.alloc(8)
    frame.writeUInt32BE(data.length, 0)
    return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(width, 0)
  header.writeUInt32BE(height, 4)
  header.set([8, 2, 0, 0, 0], 8)
  const zeros = deflateSync(Buffer.alloc(4 << 20))
  return Buffer.concat([
    Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'),
    chunk('IHDR', header),
    chunk('IDAT', zeros),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

describe('the process for pictures', () => {
  it('shows what browsers cannot: HEIC, TIFF, AVIF', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'lumbrin-heic-'))
    const png = join(folder, 'made.png')
    await sharp(jpeg).png().toFile(png)
    execFileSync('heif-enc', ['-q', '60', '-o', join(folder, 'made.heic'), png], { stdio: 'ignore' })
    const heic = readFileSync(join(folder, 'made.heic'))
    rmSync(folder, { recursive: true })
    for (const bytes of [heic, await sharp(jpeg).tiff().toBuffer(), await sharp(jpeg).avif().toBuffer()]) {
      const { format, width, height } = await sharp(await shown(bytes, 300)).metadata()
      expect({ format, width, height }).toEqual({ format: 'webp', width: 300, height: 200 })
    }
    const [one, other] = [await fingerprintOf(heic), await fingerprintOf(jpeg)]
    expect(apart(one?.fine ?? new Uint8Array(), other?.fine ?? new Uint8Array(1))).toBeLessThan(COPY_LIMITS.fine)
  })

  it.each([
    ['a picture that unpacks to gigabytes', () => bomb(60_000, 60_000)],
    ['a picture of no width', () => bomb(0, 10)],
    ['half a picture header', () => jpeg.subarray(0, 20)],
    ['no picture', () => Buffer.from('a letter, not a picture')],
  ])('refuses %s, and goes on', async (_, bytes) => {
    await expect(shown(bytes(), 300)).rejects.toMatchObject({ code: 'unusable' })
    expect((await sharp(await shown(jpeg, 300)).metadata()).width).toBe(300)
  })

  it('does several at once', async () => {
    const all = await Promise.all(Array.from({ length: 12 }, (_, i) => shown(jpeg, 50 + i)))
    expect(all.length).toBe(12)
  })

  it('shows first what was asked for last, and nothing that nobody waits for any more', async () => {
    const order: number[] = []
    const stop = new AbortController()
    const ask = (edge: number, signal?: AbortSignal) => shown(jpeg, edge, { signal }).then(() => order.push(edge))
    // Both processes are busy with the first two.
    const first = [ask(800), ask(801)]
    const given = ask(100, stop.signal)
    const later = Array.from({ length: 10 }, (_, i) => ask(101 + i))
    stop.abort()
    await expect(given).rejects.toMatchObject({ message: expect.stringContaining('Nobody waits') })
    await Promise.all([...first, ...later])
    // Two work side by side, so that neighbours may change places, and the ends may not.
    expect(order).toHaveLength(12)
    expect(order.indexOf(110)).toBeLessThan(order.indexOf(101))
    expect(order.indexOf(109)).toBeLessThan(order.indexOf(102))
    expect(order).not.toContain(100)
    // Whoever is given up takes nobody's turn along.
    await expect(ask(120)).resolves.toBeGreaterThan(0)
  })
})
