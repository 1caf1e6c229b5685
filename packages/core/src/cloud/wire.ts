import { z } from 'zod'

/** What the service answers: docs/cloud-service.openapi.json. Everything from it is checked before it is used. */
const sha256 = z.string().regex(/^[0-9a-f]{64}$/)
const id = z.string().min(1).max(200)
const bytes = z.number().int().nonnegative()
// Pieces are held in memory whole, some of many files at a time.
const MOST_CHUNK = 1 << 20

export const Chunk = z.object({ sha256, size: bytes.max(MOST_CHUNK) })
export type Chunk = z.infer<typeof Chunk>

export const CloudFile = z.object({
  domain: z.string(),
  path: z.string(),
  kind: z.enum(['file', 'directory', 'link']),
  size: bytes,
  modifiedAt: z.nullable(z.coerce.date()),
  chunks: z.array(Chunk),
})
export type CloudFile = z.infer<typeof CloudFile>

export const Challenge = z.object({ challenge: id, sentTo: z.string() })
export const Session = z.object({ token: id, refreshToken: id, expiresInSeconds: z.number() })
export type Session = z.infer<typeof Session>
export const Failure = z.object({ error: z.object({ code: z.string(), triesLeft: z.number().optional() }) })

export const AccountInfo = z.object({
  name: z.string(),
  extraProtection: z.boolean(),
  /** Which kinds the owner let the cloud keep. */
  syncs: z.record(z.string(), z.boolean()),
})
export type AccountInfo = z.infer<typeof AccountInfo>

export const SnapshotInfo = z.object({
  id,
  takenAt: z.coerce.date(),
  complete: z.boolean(),
  bytes,
  files: bytes,
  installedApps: z.array(z.string()),
})
export type SnapshotInfo = z.infer<typeof SnapshotInfo>

export const CloudDevice = z.object({
  id,
  name: z.string(),
  productType: z.string(),
  osVersion: z.string(),
  snapshots: z.array(SnapshotInfo),
})
export type CloudDevice = z.infer<typeof CloudDevice>
export const Devices = z.object({ devices: z.array(CloudDevice) })

const fields = z.record(z.string(), z.json())
export const LibraryPhoto = z.object({
  id,
  condition: z.enum(['live', 'binned']),
  title: z.string(),
  takenAt: z.nullable(z.string()),
  fields,
  file: CloudFile,
})
export const DeletedFile = z.object({
  id,
  name: z.string(),
  folder: z.string(),
  deletedAt: z.string(),
  daysLeft: z.number(),
  file: CloudFile,
})

export const ARCHIVE_KINDS = ['contacts', 'calendars', 'reminders', 'bookmarks'] as const
export const ArchiveInfo = z.object({ id, kind: z.enum(ARCHIVE_KINDS), takenAt: z.coerce.date(), count: bytes })
export type ArchiveInfo = z.infer<typeof ArchiveInfo>
export const Archives = z.object({ archives: z.array(ArchiveInfo) })
export const ArchiveItem = z.object({
  title: z.string(),
  when: z.nullable(z.string()),
  text: z.nullable(z.string()),
  fields,
})
