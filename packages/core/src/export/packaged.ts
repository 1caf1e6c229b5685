import { createReadStream } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type { Sighting } from '../categories/types.js'
import type { Standing } from '../findings/standing.js'
import { DestinationError } from './bag-types.js'

/** An item as the index of a package lists it. */
export interface PackagedItem extends Sighting {
  standing: Standing
  /** Name and date of its source; null where all items come from one. */
  source: string | null
  /** Where it lies in the package. */
  files: readonly string[]
  /** Where the files that hang on it lie, in the order of its attachments; null: one could not be had. */
  attached?: readonly (string | null)[]
  /** What the technician noted to it. */
  note?: string
  /** Its content could not be written. */
  missed?: boolean
}

/** Files of a package that say what all of it holds: an addition writes them anew. */
export const OVERVIEWS: readonly string[] = [
  'index.jsonl',
  'index.csv',
  'index.xlsx',
  'provenance.html',
  'report.html',
  'report.pdf',
]

/**
 * The items that a package holds already, by its index.
 * @throws DestinationError where the index is damaged: what lies there cannot be told then
 */
export async function* itemsInPackage(folder: string): AsyncGenerator<PackagedItem> {
  const lines = createInterface({
    input: createReadStream(join(folder, 'data/index.jsonl')),
    crlfDelay: Number.POSITIVE_INFINITY,
  })
  for await (const line of lines) if (line !== '') yield packagedItem(line)
}

/** An item by its line in the index. @throws DestinationError where the line is damaged */
export function packagedItem(line: string): PackagedItem {
  try {
    const item = JSON.parse(line) as PackagedItem
    if (typeof item.category === 'string' && Array.isArray(item.files)) return item
  } catch (thrown) {
    throw damaged(thrown)
  }
  throw damaged()
}

const damaged = (cause?: unknown) =>
  new DestinationError(
    'The index of the earlier handover is damaged, so that what is new cannot be told. Nothing was written; choose another folder.',
    { cause },
  )
