import sharp from 'sharp'
import { FormatError, messageOf } from '../io/errors.js'
import { type ByteSource, readAll } from '../io/source.js'

const EDGE = 320
// A phone's largest pictures stay well below both; more is a trap or no picture.
const MAX_BYTES = 200 << 20
const MAX_PIXELS = 300_000_000

/** A WebP of at most 320 pixels a side, turned upright. @throws FormatError when the bytes are no picture */
export async function makeThumbnail(source: ByteSource): Promise<Uint8Array> {
  const bytes = await readAll(source, MAX_BYTES)
  try {
    return await sharp(bytes, { limitInputPixels: MAX_PIXELS, failOn: 'none' })
      .rotate()
      .resize(EDGE, EDGE, { fit: 'inside', withoutEnlargement: true })
      .webp({ quality: 75 })
      .toBuffer()
  } catch (thrown) {
    throw new FormatError('bad-value', 0, `not a picture: ${messageOf(thrown)}`, { cause: thrown })
  }
}
