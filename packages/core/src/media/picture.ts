import sharp, { type Sharp } from 'sharp'
import { FormatError, messageOf } from '../io/errors.js'
import { MemorySource } from '../io/source.js'
import { carve } from './carving/carve.js'
import { rawOfHeic } from './heic.js'

// A phone's largest pictures stay well below; more is a trap or no picture.
const MAX_PIXELS = 300_000_000
const OPTIONS = { limitInputPixels: MAX_PIXELS, failOn: 'none' } as const

/**
 * A picture of any kind that devices make, ready to be worked on: what the image library reads, HEIC by a decoder of its
 * own, and of camera raw files the largest picture inside. Costs seconds and hundreds of megabytes for some.
 * @throws FormatError when the bytes are no picture
 */
export async function decodedPicture(bytes: Uint8Array): Promise<Sharp> {
  try {
    const known = sharp(bytes, OPTIONS)
    const { format, compression } = await known.metadata()
    if (format === 'heif' && compression !== 'av1') {
      const { data, ...raw } = await rawOfHeic(bytes)
      return sharp(data, { ...OPTIONS, raw })
    }
    return format === 'tiff' ? await withLargerInside(bytes, known) : known
  } catch (thrown) {
    throw new FormatError('bad-value', 0, `not a picture: ${messageOf(thrown)}`, { cause: thrown })
  }
}

/** Camera raw files begin like TIFF with a small picture; the camera's own full preview lies further inside. */
async function withLargerInside(bytes: Uint8Array, first: Sharp): Promise<Sharp> {
  const { width = 0 } = await first.metadata()
  let best = { start: 0, end: 0 }
  for await (const { mime, start, end, wholeness } of carve(new MemorySource(bytes), () => {}, 1))
    if (mime === 'image/jpeg' && wholeness === 'whole' && end - start > best.end - best.start) best = { start, end }
  if (best.end === 0) return first
  const inside = sharp(bytes.subarray(best.start, best.end), OPTIONS)
  return ((await inside.metadata()).width ?? 0) > width ? inside : first
}

/** Small ones for the screen, and such as every program has shown for decades. */
export type ShownAs = 'webp' | 'jpeg'

/** A picture of at most `edge` pixels a side, turned upright. @throws FormatError when the bytes are no picture */
export async function shownPicture(bytes: Uint8Array, edge: number, as: ShownAs = 'webp'): Promise<Uint8Array> {
  const picture = await decodedPicture(bytes)
  try {
    const shown = picture.rotate().resize(edge, edge, { fit: 'inside', withoutEnlargement: true })
    // JPEG knows nothing that can be seen through: what was, lies on white.
    return await (as === 'webp'
      ? shown.webp({ quality: 78 })
      : shown.flatten({ background: '#fff' }).jpeg({ quality: 80 })
    ).toBuffer()
  } catch (thrown) {
    throw new FormatError('bad-value', 0, `not a picture: ${messageOf(thrown)}`, { cause: thrown })
  }
}
