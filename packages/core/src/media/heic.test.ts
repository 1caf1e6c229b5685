import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { jpegOfHeic } from './heic.js'

/** A HEIC picture made by Debian's heif-enc (libheif) of four plain quarters. */
async function heicOf(): Promise<Buffer> {
  const folder = scratchFolder()
  const quarter = (background: string) => ({ create: { width: 80, height: 60, channels: 3 as const, background } })
  const png = await sharp({ create: { width: 160, height: 120, channels: 3, background: 'white' } })
    .composite([
      { input: await sharp(quarter('red')).png().toBuffer(), left: 0, top: 0 },
      { input: await sharp(quarter('green')).png().toBuffer(), left: 80, top: 0 },
      { input: await sharp(quarter('blue')).png().toBuffer(), left: 0, top: 60 },
    ])
    .png()
    .toBuffer()
  writeFileSync(join(folder, 'a.png'), png)
  tool('heif-enc', '-q', '90', '-o', join(folder, 'a.heic'), join(folder, 'a.png'))
  return readFileSync(join(folder, 'a.heic'))
}

describe('a HEIC picture', () => {
  it('becomes a JPEG of the same size and the same colours', async () => {
    const jpeg = await jpegOfHeic(await heicOf())
    const { data, info } = await sharp(jpeg).raw().toBuffer({ resolveWithObject: true })
    expect([info.width, info.height]).toEqual([160, 120])
    const at = (x: number, y: number) => [...data.subarray((y * 160 + x) * 3, (y * 160 + x) * 3 + 3)]
    for (const [place, colour] of [
      [at(20, 20), [255, 0, 0]],
      [at(120, 20), [0, 128, 0]],
      [at(20, 90), [0, 0, 255]],
      [at(120, 90), [255, 255, 255]],
    ] as const)
      for (const [i, value] of colour.entries()) expect(Math.abs((place[i] ?? 0) - value)).toBeLessThan(40)
  })

  it('that is none, or is cut, ends with an error', async () => {
    const heic = await heicOf()
    for (const bytes of [Buffer.from('no picture'), heic.subarray(0, 300), Buffer.alloc(0)])
      await expect(jpegOfHeic(bytes)).rejects.toThrow()
  })
})
