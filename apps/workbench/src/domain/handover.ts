import { z } from 'zod'
import { category, count, countsByStanding } from './core-values.js'
import { handoverId, jobId } from './ids.js'
import { time } from './time.js'

// Stored in handovers.state: renaming a value needs a migration.
export const HANDOVER_STATES = ['queued', 'running', 'stopping', 'stopped', 'done', 'failed'] as const
export type HandoverState = (typeof HANDOVER_STATES)[number]

// Report, pages and lists take some megabytes of each first part.
const LEAST_PART = 50_000_000

/** How a package is written; stored with the handover, since it may be written long after it was asked for. */
export const handoverOptions = z.strictObject({
  /** By category; one that is not named is written in its own formats. */
  formats: z.partialRecord(category, z.array(z.string().max(40)).max(30)),
  duplicates: z.enum(['once', 'each']),
  /** The most bytes of a part, where the package is split; absent: it is not. */
  partBytes: z.number().int().min(LEAST_PART).max(1e13).optional(),
  /** The folder for a second copy of the package; absent: none is made. */
  second: z.string().trim().min(1).max(1000).optional(),
})

/** Where a package goes. */
export const destination = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('folder'), folder: z.string().trim().min(1, 'Name a folder.').max(1000) }),
  z.object({ kind: z.literal('zip') }),
])

const summary = z.strictObject({
  path: z.string(),
  /** Items that are new, and whole in the package; those that lay there before are not counted. */
  items: count,
  /** New items that are listed, and whose content could not be written. */
  missed: count,
  files: count,
  bytes: count,
  /** Of all items in the package, those of earlier handovers among them. */
  counts: countsByStanding,
  problems: z.array(z.string()),
  /** The second copy; null: none was asked for. Absent in handovers of before there were any. */
  second: z.strictObject({ path: z.string(), why: z.string().nullable() }).nullable().optional(),
})

export const handover = z
  .strictObject({
    id: handoverId,
    jobId,
    kind: z.enum(['folder', 'zip']),
    destination: z.string(),
    state: z.enum(HANDOVER_STATES),
    done: count,
    total: count,
    /** The same in bytes of contents and texts. */
    doneBytes: count,
    totalBytes: count,
    options: handoverOptions,
    summary: summary.nullable(),
    error: z.string().nullable(),
    createdAt: time,
    endedAt: time.nullable(),
  })
  .meta({ id: 'Handover' })

/** What a check of a package's checksums found. */
export const packageCheck = z.strictObject({
  checked: count,
  altered: z.array(z.string()),
  missing: z.array(z.string()),
  unlisted: z.array(z.string()),
  signature: z.enum(['none', 'valid', 'invalid']),
})

/** A folder in which handovers may be written, as a picker shows it. */
export const folderList = z.strictObject({
  /** Null: the list of the allowed roots themselves. */
  path: z.string().nullable(),
  /** Null: there is nothing above it that may be shown. */
  parent: z.string().nullable(),
  folders: z.array(z.strictObject({ name: z.string(), path: z.string(), isHandover: z.boolean() })),
  /** More folders than are listed. */
  more: z.boolean(),
  freeBytes: count,
})

export type HandoverOptions = z.output<typeof handoverOptions>
export type Destination = z.output<typeof destination>
export type Handover = z.output<typeof handover>
export type FolderList = z.output<typeof folderList>
export type PackageCheck = z.output<typeof packageCheck>
