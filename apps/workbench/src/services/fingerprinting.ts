import { createHash } from 'node:crypto'
import { sideBySide } from '@lumbrin/core/io/side-by-side'
import { readAll } from '@lumbrin/core/io/source'
import type { Db } from '../database/connection.js'
import { type Print, storePrint, type Unprinted, unprintedAfter } from '../database/fingerprints.js'
import { AppError } from '../domain/errors.js'
import { fingerprintOf } from './media-pool.js'
import { openContent } from './trees.js'

const AT_ONCE = 2
const BATCH = 20
const MAX_BYTES = 200 << 20
const NONE: Print = { sha256: null, coarse: null, fine: null, width: null, height: null }

// Sightings only ever get higher ids; what could not be opened is tried again after a restart.
let looked = 0

/** Computes fingerprints of some pictures that have none yet. False: there are none left. */
export async function fingerprintSome(db: Db, signal: AbortSignal): Promise<boolean> {
  const pictures = await unprintedAfter(db, looked, BATCH)
  await sideBySide(pictures, AT_ONCE, async (picture) => {
    if (signal.aborted) return
    const print = await printOf(db, picture)
    if (print) await storePrint(db, picture, print)
  })
  looked = pictures.at(-1)?.sightingId ?? looked
  return pictures.length > 0
}

/** Undefined: the source is locked, or is not there now. */
async function printOf(db: Db, { sourceId, content }: Unprinted): Promise<Print | undefined> {
  const source = await openContent(db, sourceId, content.domain, content.path, content.range).catch(() => undefined)
  if (!source) return undefined
  try {
    if (source.size > MAX_BYTES) return NONE
    const bytes = await readAll(source, MAX_BYTES)
    const sha256 = createHash('sha256').update(bytes).digest('hex')
    const print = await fingerprintOf(bytes).catch((thrown: unknown) => {
      if (thrown instanceof AppError) return undefined
      throw thrown
    })
    return print ? { sha256, ...print } : { ...NONE, sha256 }
  } finally {
    await source.close()
  }
}
