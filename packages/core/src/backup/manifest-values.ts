import { digest } from '../io/hash.js'

/** The name of a file's content in a backup: SHA-1 of domain, hyphen and path, in UTF-8 as stored. */
export const fileIdOf = (domain: string, path: string): string => digest('sha1', `${domain}-${path}`)

const ID_DIGITS = 40
const UPPER_DIGITS = 5
const KEY_DIGITS = 13

/** By byte: the hexadecimal digit that it stands for; -1: none. */
const DIGITS = new Int8Array(256).fill(-1)
for (const [value, digit] of [...'0123456789abcdef'].entries()) DIGITS[digit.charCodeAt(0)] = value

/** The first 52 bits of an id, the 40 hexadecimal digits of a SHA-1, as UTF-8 from `start` to `end`. -1: it is none. */
export function keyOfId(bytes: Uint8Array, start: number, end: number): number {
  if (end - start !== ID_DIGITS) return -1
  let upper = 0
  let lower = 0
  let all = 0
  for (let i = 0; i < ID_DIGITS; i++) {
    const digit = DIGITS[bytes[start + i] as number] as number
    all |= digit
    if (i < UPPER_DIGITS) upper = (upper << 4) | digit
    else if (i < KEY_DIGITS) lower = (lower << 4) | digit
  }
  return all < 0 ? -1 : upper * 2 ** 32 + (lower >>> 0)
}

const SLASH = 0x2f
const DOT = 0x2e

/** True for a relative path that stays below its root; UTF-8 from `start` to `end`. */
export function isInnerPath(bytes: Uint8Array, start: number, end: number): boolean {
  if (start < end && bytes[start] === SLASH) return false
  // Counts the dots of a part that is made of dots alone so far.
  let dots = 0
  for (let at = start; at < end; at++) {
    const byte = bytes[at] as number
    if (byte === 0) return false
    if (byte === SLASH) {
      if (dots === 2) return false
      dots = 0
    } else dots = byte === DOT && dots >= 0 ? dots + 1 : -1
  }
  return dots !== 2
}

/** The same for a text. */
export function isInnerPathText(path: string): boolean {
  const bytes = Buffer.from(path)
  return isInnerPath(bytes, 0, bytes.length)
}
