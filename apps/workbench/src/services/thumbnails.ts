import { FormatError } from '@lumbrin/core/io/errors'
import type { ByteSource } from '@lumbrin/core/io/source'
import { makeThumbnail } from '@lumbrin/core/media/thumbnail'
import { AppError } from '../errors.js'

// Each picture being shrunk holds its pixels in memory; two at a time keep both cores busy.
const MAX_AT_ONCE = 2
let running = 0
const waiting: (() => void)[] = []

/** A small WebP of a picture; closes the source. @throws AppError('unusable') when it is no picture that can be shown */
export async function thumbnailOf(source: ByteSource): Promise<Uint8Array> {
  if (running >= MAX_AT_ONCE) await new Promise<void>((turn) => waiting.push(turn))
  running++
  try {
    return await makeThumbnail(source)
  } catch (thrown) {
    if (thrown instanceof FormatError)
      throw new AppError('unusable', 'This picture cannot be shown.', { cause: thrown })
    throw thrown
  } finally {
    running--
    waiting.shift()?.()
    await source.close()
  }
}
