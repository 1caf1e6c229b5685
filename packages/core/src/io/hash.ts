import { createHash } from 'node:crypto'
import { type ByteSource, chunksOf } from './source.js'

/** Lower-case hex digest of a text or of bytes in memory (FIPS 180-4). */
export const digest = (algorithm: 'sha1' | 'sha256', data: string | Uint8Array): string =>
  createHash(algorithm).update(data).digest('hex')

/** SHA-256 of a whole source, read a megabyte at a time; lower-case hex. */
export async function sha256Of(source: ByteSource): Promise<string> {
  const hash = createHash('sha256')
  for await (const chunk of chunksOf(source)) hash.update(chunk)
  return hash.digest('hex')
}
