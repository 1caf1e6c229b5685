import { DEVICE_PARTS } from '@lumbrin/core/device/parts'
import { z } from 'zod'
import { count } from './core-values.js'
import { copyPlaceId, copyTaskId, jobId, regularCopyId, sourceId } from './ids.js'
import { time } from './time.js'

/** A copy by its place below the folder of copies: its device's folder, and its state's. */
export const copyName = z.string().regex(/^(?!\.)[^/\\]{1,100}\/(?!\.)[^/\\]{1,100}$/)

const copyNames = z.array(copyName).max(10_000)

/** A safe copy, as the page of copies shows it. */
export const shownCopy = z.strictObject({
  name: copyName,
  /** Its device's folder: copies of one device stand together. */
  device: z.string(),
  deviceName: z.string().nullable(),
  osVersion: z.string().nullable(),
  takenAt: time,
  madeAt: time,
  files: count,
  bytes: count,
  /** Contents that its source listed and did not give. */
  missing: count,
  /** Categories that it can hold; null: all. */
  only: z.array(z.string()).nullable(),
  /** Files beside the copy before of the same device. */
  added: count,
  changed: count,
  gone: count,
  /** What its removal alone would give. */
  bytesAlone: count,
  /** Its last check; null: none since it was made. */
  checked: z.strictObject({ at: time, problems: count }).nullable(),
})
export type ShownCopy = z.output<typeof shownCopy>

export const copyPlace = z.strictObject({
  id: copyPlaceId,
  path: z.string(),
  /** Why it cannot be looked into now, in words; null: it can. */
  away: z.string().nullable(),
})
export type CopyPlace = z.output<typeof copyPlace>

export const placeContents = z.strictObject({
  copies: z.array(shownCopy),
  damaged: z.array(z.strictObject({ name: z.string(), why: z.string() })),
  freeBytes: count,
})
export type PlaceContents = z.output<typeof placeContents>

const changedFiles = z.strictObject({
  count,
  bytes: count,
  /** The first of them. */
  files: z.array(z.strictObject({ domain: z.string(), path: z.string(), size: count.nullable() })),
})

/** What two copies differ in. */
export const copyDifference = z.strictObject({ added: changedFiles, changed: changedFiles, gone: changedFiles })
export type CopyDifference = z.output<typeof copyDifference>

const udid = z.string().min(1).max(100)

const withinPlace = [
  z.strictObject({ kind: z.literal('copy'), source: sourceId }),
  z.strictObject({ kind: z.literal('device'), udid, part: z.enum(DEVICE_PARTS) }),
  z.strictObject({ kind: z.literal('check'), copies: copyNames }),
  z.strictObject({ kind: z.literal('remove'), copies: copyNames }),
] as const
const move = z.strictObject({ kind: z.literal('move'), to: z.string().trim().min(1, 'Name a folder.').max(1000) })

/** What can be done in a place of copies, as it is asked for. */
export const copyAsked = z.discriminatedUnion('kind', [...withinPlace, move])
export type CopyAsked = z.output<typeof copyAsked>

/** The same as it is stored. A move keeps the old folder, which is cleared after the place's own path has changed. */
export const copyWork = z.discriminatedUnion('kind', [...withinPlace, move.extend({ from: z.string() })])
export type CopyWork = z.output<typeof copyWork>

/** What is wrong, by the name of its file. */
const problems = z.array(z.strictObject({ name: z.string(), why: z.string() }))

/** What it came to. */
export const copyResult = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('copy'),
    /** False: the state was copied before, with nothing missing that can be had now. */
    made: z.boolean(),
    newContents: count,
    newBytes: count,
    missing: count,
  }),
  z.strictObject({
    kind: z.literal('check'),
    copies: z.array(
      z.strictObject({
        name: copyName,
        checked: count,
        problems,
        /** Of which only the first are listed. */
        found: count,
      }),
    ),
  }),
  z.strictObject({
    kind: z.literal('remove'),
    copies: count,
    bytes: count,
    /** False: a copy of the place is damaged, so that all contents were kept. */
    swept: z.boolean(),
  }),
  z.strictObject({
    kind: z.literal('move'),
    copies: count,
    /** The first contents that are not right in the new place; the old one stays then. */
    problems,
    found: count,
  }),
])
export type CopyResult = z.output<typeof copyResult>

// Stored in copy_tasks.state: renaming a value needs a migration.
export const COPY_TASK_STATES = ['queued', 'running', 'stopping', 'stopped', 'done', 'failed'] as const
export type CopyTaskState = (typeof COPY_TASK_STATES)[number]

export const copyTask = z.strictObject({
  id: copyTaskId,
  place: copyPlaceId,
  work: copyWork,
  /** The name of the source or device that is copied; null for a check or a removal. */
  about: z.string().nullable(),
  job: jobId.nullable(),
  state: z.enum(COPY_TASK_STATES),
  /** Files of a copy; copies of a check. */
  done: count,
  total: count,
  result: copyResult.nullable(),
  error: z.string().nullable(),
  createdAt: time,
  endedAt: time.nullable(),
})
export type CopyTask = z.output<typeof copyTask>

/** A device that is copied again and again: as soon as it is attached once so many days have passed. */
export const regularCopyAsked = z.strictObject({
  udid,
  part: z.enum(DEVICE_PARTS),
  everyDays: z.int().min(1).max(366),
})
export type RegularCopyAsked = z.output<typeof regularCopyAsked>

export const regularCopy = regularCopyAsked.extend({
  id: regularCopyId,
  place: copyPlaceId,
  deviceName: z.string().nullable(),
  /** When the last one was made; null: none was yet. */
  lastAt: time.nullable(),
  /** From when on it is made as soon as the device is attached. */
  dueAt: time,
  /** One is made now, or waits for what is done before it. */
  atWork: z.boolean(),
  /** Why the last attempt came to nothing; null: it did not, or none was made since. */
  failed: z.string().nullable(),
})
export type RegularCopy = z.output<typeof regularCopy>

export const copiesPage = z.strictObject({
  places: z.array(copyPlace),
  tasks: z.array(copyTask),
  regular: z.array(regularCopy),
})
export type CopiesPage = z.output<typeof copiesPage>
