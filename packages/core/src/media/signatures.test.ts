import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { kindOfBytes } from './signatures.js'

const square = sharp({ create: { width: 8, height: 8, channels: 3, background: '#558' } })

describe('the kind of bytes', () => {
  it.each(['jpeg', 'png', 'gif', 'webp', 'tiff', 'avif'] as const)('agrees with a general tool: %s', async (format) => {
    const bytes = await square.clone().toFormat(format).toBuffer()
    const file = join(scratchFolder(), 'picture')
    writeFileSync(file, bytes)
    expect(tool('exiftool', '-MIMEType', '-s3', file).trim()).toBe(kindOfBytes(bytes)?.mime)
  })

  it.each([
    ['%PDF-1.7', 'pdf'],
    ['SQLite format 3\0', 'db'],
    ['bplist00\xd4', 'plist'],
    ['\0\0\0\x14ftypqt  ', 'mov'],
    ['\0\0\0\x20ftypisom', 'mp4'],
    ['RIFF....WAVEfmt ', 'wav'],
  ])('is told by the beginning %j', (text, ending) =>
    expect(kindOfBytes(Buffer.from(text, 'latin1'))?.ending).toBe(ending),
  )

  it('is unknown where nothing fits', () => {
    for (const text of ['', 'x', 'plain words of no kind']) expect(kindOfBytes(Buffer.from(text))).toBeUndefined()
  })
})
