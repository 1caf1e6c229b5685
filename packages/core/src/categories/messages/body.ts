// In the archived attributed body the text follows its class name: a string object's class chain, the type
// encoding "+" and a length. (Layout of the old object archiver; reference 6.2, from memory and computed.)
const STRING_TYPE = Buffer.from([0x84, 0x01, 0x2b])
const CLASS_NAME = Buffer.from('NSString', 'latin1')
const MUTABLE_CLASS_NAME = Buffer.from('NSMutableString', 'latin1')

/** The plain text inside an archived attributed body. Null: there is none, or it is damaged. */
export function attributedBodyText(archive: Uint8Array): string | null {
  const bytes = Buffer.from(archive.buffer, archive.byteOffset, archive.byteLength)
  const mutable = bytes.indexOf(MUTABLE_CLASS_NAME)
  const named = mutable >= 0 ? mutable : bytes.indexOf(CLASS_NAME)
  const typed = named < 0 ? -1 : bytes.indexOf(STRING_TYPE, named)
  if (typed < 0) return null
  const length = lengthAt(bytes, typed + STRING_TYPE.length)
  if (!length || length.end + length.size > bytes.length) return null
  return bytes.toString('utf8', length.end, length.end + length.size)
}

function lengthAt(bytes: Buffer, at: number): { size: number; end: number } | undefined {
  const first = bytes[at]
  if (first === undefined) return undefined
  if (first < 0x80) return { size: first, end: at + 1 }
  if (first === 0x81 && at + 3 <= bytes.length) return { size: bytes.readUInt16LE(at + 1), end: at + 3 }
  if (first === 0x82 && at + 5 <= bytes.length) return { size: bytes.readUInt32LE(at + 1), end: at + 5 }
  return undefined
}
