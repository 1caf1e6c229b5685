import { join } from 'node:path'
import { z } from 'zod'
import { SOURCE_KINDS } from '../backup/types.js'

/** How safe copies lie on a disk; docs/copies.md says it in words. A change needs another version number. */
export const PLACE_FORMAT = 'lumbrin-copies'
export const COPY_FORMAT = 'lumbrin-copy'
const VERSION = z.literal(1)

/** In a place of copies, at its top. */
export const PLACE_FILE = 'lumbrin-copies.json'
/** In the folder of a copy. */
export const COPY_FILE = 'copy.json'
export const LISTING_FILE = 'files.jsonl'
export const CONTENTS_FILE = 'manifest-sha256.txt'
export const TAGS_FILE = 'tagmanifest-sha256.txt'

export const placeHeader = z.object({ format: z.literal(PLACE_FORMAT), version: VERSION })

const nullable = z.string().nullable()

/** What a copy says of itself. */
export const copyHeader = z.object({
  format: z.literal(COPY_FORMAT),
  version: VERSION,
  /** When it was made. */
  madeAt: z.coerce.date(),
  /** The state of the device that it shows. */
  takenAt: z.coerce.date(),
  kind: z.enum(SOURCE_KINDS),
  deviceName: nullable,
  productType: nullable,
  osVersion: nullable,
  uniqueId: nullable,
  serialNumber: nullable,
  installedApps: z.array(z.string()),
  /** Categories that it can hold; absent: all. */
  only: z.array(z.string()).optional(),
  files: z.int().nonnegative(),
  bytes: z.int().nonnegative(),
  /** Contents that the source lists and did not give. */
  missing: z.int().nonnegative(),
})
export type CopyHeader = z.infer<typeof copyHeader>

const sha256 = z.string().regex(/^[0-9a-f]{64}$/)

/** A line of a copy's listing. */
export const copyLine = z.object({
  id: z.string(),
  domain: z.string(),
  path: z.string(),
  kind: z.enum(['file', 'directory', 'link']),
  target: nullable,
  size: z.int().nonnegative().nullable(),
  modifiedAt: z.coerce.date().nullable(),
  createdAt: z.coerce.date().nullable(),
  /** Its content; null: there is none, or the source did not give it. */
  sha256: sha256.nullable(),
})
export type CopyLine = z.infer<typeof copyLine>

/** What tells the files of a copy apart. */
export const fileKey = ({ domain, path }: { domain: string; path: string }): string => `${domain}\0${path}`

/** From a copy's folder, which lies two folders below the top, to a content: the same on every system. */
export const contentFromCopy = (sum: string): string => `../../../${contentName(sum)}`

/** Where a content lies in its place. */
export const contentPath = (place: string, sum: string): string => join(place, ...contentName(sum).split('/'))

const contentName = (sum: string) => `content/${sum.slice(0, 2)}/${sum}`

/** The folder of a state, such as 2026-11-14T201500Z: a name that every file system takes, in the order of time. */
export const stateName = (takenAt: Date): string =>
  takenAt
    .toISOString()
    .replace(/\.\d+Z$/, 'Z')
    .replaceAll(':', '')
