import { asTiff, jpegWithExif } from './exif-block.js'

// 100 megapixels: more than any device's camera, and 400 MB of memory once decoded.
const MOST_PIXELS = 100_000_000

/**
 * The pixels of a HEIC picture (ISO/IEC 23008-12), four channels, with its orientation applied. Costs seconds of
 * computing and hundreds of megabytes: not for a thread that answers requests.
 * @throws Error where the bytes are no HEIC picture, or one of absurd size
 */
export async function rawOfHeic(
  bytes: Uint8Array,
): Promise<{ data: Uint8ClampedArray; width: number; height: number; channels: 4 }> {
  const { default: sharp } = await import('sharp')
  const { width, height } = await sharp(bytes).metadata()
  if (!width || !height || width * height > MOST_PIXELS) throw new Error('it is no picture of a sensible size')
  // Loaded with the first such picture: the decoder is several megabytes of code.
  const { default: decode } = await import('heic-decode')
  const image = await decode({ buffer: bytes })
  return { data: image.data, width: image.width, height: image.height, channels: 4 }
}

/** A HEIC picture as JPEG of the same size, with what the camera wrote into it (EXIF). @throws Error as above */
export async function jpegOfHeic(bytes: Uint8Array): Promise<Uint8Array> {
  const { default: sharp } = await import('sharp')
  const { data, ...raw } = await rawOfHeic(bytes)
  const jpeg = await sharp(data, { raw }).flatten({ background: 'white' }).jpeg({ quality: 92 }).toBuffer()
  const { exif } = await sharp(bytes).metadata()
  const tiff = exif && asTiff(exif)
  return tiff ? jpegWithExif(jpeg, tiff) : jpeg
}
