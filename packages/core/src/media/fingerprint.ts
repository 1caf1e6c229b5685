import { decodedPicture } from './picture.js'

/** How a picture looks, in few bytes: copies that were made smaller, or saved anew, differ little. */
export interface Fingerprint {
  /** 64 bits, by which likely copies are found. */
  coarse: bigint
  /** The picture in 16 by 16 fields of three colours, by which copies are told from pictures that are only alike. */
  fine: Uint8Array
  width: number
  height: number
}

/** Bits of `coarse` in which copies differ at most, and how far their `fine` is apart. Measured: docs/pictures.md. */
export const COPY_LIMITS = { coarse: 7, fine: 15 } as const

const FIELDS = 16
// In steps of 256. Less is what saving a picture anew does to an even surface.
const BRIGHTER_BY = 3
// Below it the bits would be made of noise.
const LEAST_SPREAD = 12

/**
 * The fingerprint of a picture, turned upright. Its bits say for each field whether the next one to the right is
 * brighter (difference hash, common practice). A plain surface has none: everything would be like it.
 * @throws FormatError when the bytes are no picture
 */
export async function pictureFingerprint(bytes: Uint8Array): Promise<Fingerprint | undefined> {
  const picture = await decodedPicture(bytes)
  const { width = 0, height = 0 } = await picture.metadata()
  const upright = picture.rotate().flatten({ background: 'white' }).toColourspace('srgb')
  const [grey, fine] = await Promise.all([
    upright.clone().greyscale().resize(9, 8, { fit: 'fill' }).raw().toBuffer(),
    upright.clone().resize(FIELDS, FIELDS, { fit: 'fill' }).raw().toBuffer(),
  ])
  if (Math.max(...fine) - Math.min(...fine) < LEAST_SPREAD) return undefined
  return { coarse: brighterToTheRight(grey), fine: new Uint8Array(fine), width, height }
}

function brighterToTheRight(grey: Uint8Array): bigint {
  let bits = 0n
  for (let at = 0; at < grey.length; at++)
    if (at % 9 < 8) bits = (bits << 1n) | ((grey[at + 1] as number) - (grey[at] as number) > BRIGHTER_BY ? 1n : 0n)
  return bits
}

const PERCENTILE = 0.99

/**
 * How far two pictures are apart in all but a hundredth of their fields, in steps of 256, brightness evened out. A thing
 * that stands in one of them only makes it large, however alike the rest is.
 */
export function apart(one: Uint8Array, other: Uint8Array): number {
  const sum = (bytes: Uint8Array) => bytes.reduce((total, byte) => total + byte, 0)
  const evened = sum(one) / Math.max(1, sum(other))
  const differences = Float64Array.from(one, (byte, at) => Math.abs(byte - (other[at] as number) * evened)).sort()
  return differences[Math.floor((differences.length - 1) * PERCENTILE)] ?? 0
}
