import type { ListedFile } from './listed.js'

/** A file list of the legacy layout, record by record. */
export const legacyManifest = (files: readonly ListedFile[]): Buffer =>
  Buffer.concat([Buffer.from('mbdb\x05\x00', 'latin1'), ...files.map(record)])

function record({ domain, path, flags, size, modifiedAt, key }: ListedFile): Buffer {
  const seconds = Math.floor(modifiedAt.getTime() / 1000)
  const fixed = Buffer.alloc(40)
  fixed.writeUInt16BE(flags === 2 ? 0o40755 : 0o100644, 0)
  fixed.writeUInt32BE(501, 10)
  fixed.writeUInt32BE(501, 14)
  for (const at of [18, 22, 26]) fixed.writeUInt32BE(seconds, at)
  fixed.writeBigUInt64BE(BigInt(size), 30)
  fixed.writeUInt8(flags === 2 ? 0 : 3, 38)
  return Buffer.concat([text(domain), text(path), text(null), text(null), text(key ?? null), fixed])
}

function text(value: string | Uint8Array | null): Buffer {
  if (value === null) return Buffer.from([0xff, 0xff])
  const bytes = Buffer.from(value as string)
  const length = Buffer.alloc(2)
  length.writeUInt16BE(bytes.length)
  return Buffer.concat([length, bytes])
}
