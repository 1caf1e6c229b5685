/**
 * Where pictures keep their EXIF: a block in the form of TIFF. It is found here and not by the library that reads it, whose
 * own search does not end on some damaged files.
 */

const JPEG = Buffer.of(0xff, 0xd8)
const PNG = Buffer.from('\x89PNG\r\n\x1a\n', 'latin1')
const EXIF_MARK = Buffer.from('Exif\0\0', 'latin1')
const APP1 = 0xe1
const START_OF_SCAN = 0xda

/** The EXIF of a JPEG or PNG picture, as TIFF; `head` is the file's beginning. Undefined: there is none. */
export function exifBlock(head: Uint8Array): Uint8Array | undefined {
  const bytes = Buffer.from(head.buffer, head.byteOffset, head.byteLength)
  if (bytes.subarray(0, 2).equals(JPEG)) return inJpeg(bytes)
  return bytes.subarray(0, 8).equals(PNG) ? inPng(bytes) : undefined
}

/** Segments (ITU-T T.81, B.1.1.4): a marker, and a length that counts itself. EXIF is the one of CIPA DC-008, 4.7.2. */
function inJpeg(bytes: Buffer): Uint8Array | undefined {
  for (let at = 2; at + 4 <= bytes.length && bytes[at] === 0xff; ) {
    const marker = bytes[at + 1]
    const end = at + 2 + bytes.readUInt16BE(at + 2)
    if (marker === START_OF_SCAN || end < at + 4) return undefined
    const content = bytes.subarray(at + 4, end)
    if (marker === APP1 && content.subarray(0, EXIF_MARK.length).equals(EXIF_MARK)) return asTiff(content)
    at = end
  }
  return undefined
}

/** Chunks (PNG specification, 5.3): length, name, content, checksum. EXIF is `eXIf` (11.3.4.5). */
function inPng(bytes: Buffer): Uint8Array | undefined {
  for (let at = 8; at + 8 <= bytes.length; ) {
    const length = bytes.readUInt32BE(at)
    const name = bytes.toString('latin1', at + 4, at + 8)
    if (name === 'eXIf') return asTiff(bytes.subarray(at + 8, at + 8 + length))
    at += 12 + length
  }
  return undefined
}

/** EXIF without the mark that some formats put before it. Undefined: it is not in the form of TIFF (TIFF 6.0, section 2). */
export function asTiff(block: Uint8Array): Uint8Array | undefined {
  const marked = Buffer.from(block.buffer, block.byteOffset, EXIF_MARK.length).equals(EXIF_MARK)
  const tiff = marked ? block.subarray(EXIF_MARK.length) : block
  const order = Buffer.from(tiff.subarray(0, 4)).toString('latin1')
  return order === 'II*\0' || order === 'MM\0*' ? tiff : undefined
}

const ORIENTATION = 0x0112
const SHORT = 3
const ENTRY_BYTES = 12
// A segment's length counts itself and has two bytes (ITU-T T.81, B.1.1.4).
const MOST_IN_SEGMENT = 0xffff - 2

/**
 * A JPEG picture with an EXIF block (TIFF) as its first segment. Its pixels are upright already, so that the block says the
 * same of its orientation. A block that no segment holds is left out.
 */
export function jpegWithExif(jpeg: Uint8Array, tiff: Uint8Array): Uint8Array {
  const block = upright(Buffer.from(tiff))
  if (block.length + EXIF_MARK.length > MOST_IN_SEGMENT) return jpeg
  const head = Buffer.alloc(4)
  head.writeUInt16BE(0xff00 + APP1, 0)
  head.writeUInt16BE(2 + EXIF_MARK.length + block.length, 2)
  return Buffer.concat([jpeg.subarray(0, 2), head, EXIF_MARK, block, jpeg.subarray(2)])
}

/** A block whose first directory (TIFF 6.0, section 2) says that the picture is upright. */
function upright(tiff: Buffer): Buffer {
  const isLittle = tiff[0] === 0x49
  const u16 = (at: number) => (isLittle ? tiff.readUInt16LE(at) : tiff.readUInt16BE(at))
  const first = isLittle ? tiff.readUInt32LE(4) : tiff.readUInt32BE(4)
  if (first + 2 > tiff.length) return tiff
  for (let i = 0, at = first + 2; i < u16(first) && at + ENTRY_BYTES <= tiff.length; i++, at += ENTRY_BYTES)
    if (u16(at) === ORIENTATION && u16(at + 2) === SHORT)
      isLittle ? tiff.writeUInt16LE(1, at + 8) : tiff.writeUInt16BE(1, at + 8)
  return tiff
}
