import { SOURCE_KINDS } from '@lumbrin/core/backup/types'
import { WARNING_CODES } from '@lumbrin/core/io/warnings'
import { z } from 'zod'
import { category, contentState, count, pass } from './core-values.js'
import { jobId, readId, sourceId } from './ids.js'
import { READ_STATES } from './read-states.js'
import { time } from './time.js'

const text = z.string().nullable()

/** What a source says of itself. */
export const sourceInfo = z
  .strictObject({
    kind: z.enum(SOURCE_KINDS),
    /** `collected`: files from a device, a cloud or a disk image, in no backup's layout; `copied`: a safe copy. */
    layout: z.enum(['modern', 'legacy', 'collected', 'copied']),
    path: z.string(),
    deviceName: text,
    productType: text,
    osVersion: text,
    uniqueId: text,
    serialNumber: text,
    encrypted: z.boolean(),
    /** Ids of the applications that the device listed as installed. */
    installedApps: z.array(z.string()),
    /** Categories that such a source can hold; absent: all. */
    only: z.array(z.string()).readonly().exactOptional(),
    /** False: the last run was interrupted, so some content may be missing. */
    complete: z.boolean(),
  })
  .meta({ id: 'SourceInfo' })

/** A source of a job as it is stored. */
export const source = z
  .strictObject({
    id: sourceId,
    jobId,
    path: z.string(),
    info: sourceInfo,
    takenAt: time.nullable(),
    bytes: count,
    files: count,
    /** The device that the technician named, by its key; null: nobody said. */
    saidDevice: text,
    /** What the technician calls it; null: as it calls itself. */
    saidName: text,
  })
  .meta({ id: 'Source' })

/** What a step read and what it could not. */
export const stepAccount = z
  .strictObject({
    /** By the name that items give their store; an empty text names a category's only one. */
    stores: z.record(z.string(), z.enum(['whole', 'damaged', 'missing', 'absent'])),
    read: count,
    /** Rows that are listed and could not be read; pages of which not even that is known. */
    rowsSkipped: count,
    pagesSkipped: count,
    /** Files that are there and could not be looked into; absent in accounts kept before they were counted. */
    filesSkipped: count.exactOptional(),
    content: z.partialRecord(contentState, count),
  })
  .meta({ id: 'StepAccount' })

/** One category in one pass of a read. */
export const step = z.strictObject({
  id: z.number().int().positive(),
  position: count,
  category,
  pass,
  /** Sightings stored so far. */
  done: count,
  finished: z.boolean(),
  /** Null until it is known. */
  account: stepAccount.nullable(),
})

const warning = z.strictObject({
  code: z.enum(WARNING_CODES),
  message: z.string(),
  /** File or database the warning is about, as the source names it. */
  path: z.string().exactOptional(),
})

const fetching = z.strictObject({ what: z.string(), items: count, bytes: count, bytesTotal: count })

export const read = z
  .strictObject({
    id: readId,
    jobId,
    sourceId,
    state: z.enum(READ_STATES),
    /** `again`: it tries anew what was read before. */
    mode: z.enum(['read', 'again']),
    /** Of how many matches on it stops by itself; null: it reads all. */
    enough: count.nullable(),
    /** Why it waits; null: it does not. */
    waitsFor: text,
    queuedAt: time,
    startedAt: time.nullable(),
    endedAt: time.nullable(),
    error: text,
    warnings: z.array(warning),
    /** What is being fetched from a device or a cloud account; null: nothing. */
    fetching: fetching.nullable(),
    steps: z.array(step),
  })
  .meta({ id: 'Read' })

/** What is removed with a source of a job. */
export const removal = z.strictObject({
  /** Findings that no other source shows. */
  findings: count,
  /** Of these, in the tray. */
  inTray: count,
  /** What was fetched or uploaded for the job is deleted from the disk. */
  fetched: z.boolean(),
})
export type Removal = z.output<typeof removal>

/** What came of adding many backups. */
export const addedMany = z.strictObject({
  added: z.array(sourceId),
  refused: z.array(z.strictObject({ folder: z.string(), why: z.string() })),
})
export type AddedMany = z.output<typeof addedMany>

/** How the lock of an encrypted source stands. */
export const lockState = z.strictObject({
  state: z.enum(['locked', 'opening', 'open']),
  /** While it opens: how far, from 0 to 1. */
  share: z.number(),
  /** Why the last try failed. */
  message: text,
})

/** A backup that was found, or the folder that is looked into. */
export const searchStep = z.union([
  z.strictObject({ folder: z.string(), seen: count }),
  z.strictObject({ backup: sourceInfo.extend({ takenAt: time.nullable(), bytes: count, files: count }) }),
])

/** A loss window that findings of the tray share. Milliseconds; null: open. */
export const sharedWindow = z.strictObject({ from: z.number().nullable(), to: z.number().nullable(), count })

/** A device of a job: that of the brief, another one of the owner, somebody else's, or the account. */
export const jobDevice = z.strictObject({
  key: z.string(),
  /** What its newest source calls it. */
  name: z.string(),
  productType: text,
  role: z.enum(['brief', 'owner', 'other', 'account']),
  sourceIds: z.array(z.number().int().positive()),
})

/** What the page of a job's sources shows, apart from their reads. */
export const jobSources = z.strictObject({
  sources: z.array(source),
  devices: z.array(jobDevice),
  windows: z.array(sharedWindow),
})

export type Source = z.output<typeof source>
export type SharedWindow = z.output<typeof sharedWindow>
export type JobSources = z.output<typeof jobSources>
export type StepRow = z.output<typeof step>
export type Read = z.output<typeof read>
export type LockState = z.output<typeof lockState>
