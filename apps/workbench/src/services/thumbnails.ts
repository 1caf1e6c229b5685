import { type ByteSource, readAll } from '@lumbrin/core/io/source'
import { shown } from './media-pool.js'

/** Pixels a side: of a tile in the grid, and of a picture over the whole window. */
export const EDGES = { tile: 320, large: 2400 } as const

// More is a trap or no picture.
const MAX_BYTES = 200 << 20
// Some thousands of tiles: a grid that is scrolled back and forth makes none anew. In memory only, so that a purge leaves none behind.
const CACHE_BYTES = 64 << 20

const cache = new Map<string, Uint8Array<ArrayBuffer>>()
let cached = 0

/**
 * A picture as WebP; closes the source. `key` stands for the source's content.
 * @throws AppError('unusable') when it is no picture that can be shown, or nobody waits for it any more
 */
export async function pictureOf(
  key: string,
  open: () => Promise<ByteSource>,
  edge: number,
  signal?: AbortSignal,
): Promise<Uint8Array<ArrayBuffer>> {
  const name = `${key} ${edge}`
  const known = cache.get(name)
  if (known) {
    cache.delete(name)
    cache.set(name, known)
    return known
  }
  const source = await open()
  try {
    const picture = await shown(await readAll(source, MAX_BYTES), edge, { signal })
    keep(name, picture)
    return picture
  } finally {
    await source.close()
  }
}

function keep(name: string, picture: Uint8Array<ArrayBuffer>): void {
  cache.set(name, picture)
  cached += picture.byteLength
  for (const [oldest, { byteLength }] of cache) {
    if (cached <= CACHE_BYTES) break
    cache.delete(oldest)
    cached -= byteLength
  }
}

/** Forgets all pictures: those of a job that was purged are not told from others. */
export function forgetPictures(): void {
  cache.clear()
  cached = 0
}
