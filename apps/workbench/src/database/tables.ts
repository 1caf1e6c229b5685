import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Condition, Pass } from '@lumbrin/core/categories/types'
import type { DevicePart } from '@lumbrin/core/device/parts'
import type { ReturnKind } from '@lumbrin/core/device/returns'
import type { Standing } from '@lumbrin/core/findings/standing'
import type { BayAct } from '../domain/bay-rules.js'
import type { CopyTaskState } from '../domain/copies.js'
import type { HandoverState } from '../domain/handover.js'
import type {
  CopyPlaceId,
  CopyTaskId,
  FindingId,
  HandoverId,
  JobId,
  ReadId,
  RegularCopyId,
  ReturnId,
  SightingId,
  SourceId,
} from '../domain/ids.js'
import type { ReadState } from '../domain/read-states.js'

/** JSON as it is stored. Read it with `parsed`, write it with `asJson`. */
type JsonText = string
/** MariaDB's BOOLEAN. */
type Flag = 0 | 1 | boolean
/** SHA-256 as hexadecimal digits. */
type Sha256 = string

export interface JobsTable {
  id: JobId
  number: string
  /** Names the job for good, also in other installations: the number may be used again. */
  uid: string
  owner: string
  brief: JsonText
  created_at: Date
  /** Above 0: the brief changed, and its findings are still to be matched with it again. */
  unsettled: number
  purge_began_at: Date | null
  purged_at: Date | null
  /** Where the clock of the job's first device was set to (IANA); null: none said. */
  device_time_zone: string | null
  /** Devices as the technician said, and steps of the route that were called done. */
  said: JsonText | null
}

export interface LogTable {
  id: number
  job_id: JobId
  at: Date
  action: string
  detail: string
  detail_hash: Sha256
  operator: string
  /** Chains the entry to the one before. */
  hash: Sha256
}

export interface LogHeadsTable {
  job_id: JobId
  entries: number
  hash: Sha256
}

export interface SourcesTable {
  id: SourceId
  job_id: JobId
  kind: string
  path: string
  path_hash: Sha256
  info: JsonText
  taken_at: Date | null
  bytes: number
  files: number
  added_at: Date
  /** The key of the device that the technician named. */
  said_device: string | null
  /** What the technician calls it; null: as it calls itself. */
  said_name: string | null
  /** Set: it is in no list any more, and its sightings go piece by piece. */
  removed_at: Date | null
}

/** What the background process takes from the database. */
export interface Claimable {
  id: number
  state: string
  /** Who asked for it; an empty text: nobody said. */
  operator: string
  claimed_by: string | null
  heartbeat_at: Date | null
}

export interface ReadsTable extends Claimable {
  id: ReadId
  job_id: JobId
  source_id: SourceId
  state: ReadState
  mode: 'read' | 'again'
  enough: number | null
  waits_for: string | null
  queued_at: Date
  started_at: Date | null
  ended_at: Date | null
  error: string | null
  warnings: JsonText
  fetching: JsonText | null
}

export interface ReadStepsTable {
  id: number
  read_id: ReadId
  position: number
  category: CategoryId
  pass: Pass
  done: number
  finished: Flag
  /** The date of the state that the step shows: when its files were fetched, or the backup was made. */
  taken_at: Date | null
  account: JsonText | null
}

/** What both an item of a source and what became of it say. */
interface ItemColumns {
  job_id: JobId
  category: CategoryId
  happened_at: Date | null
  title: string
  text: string | null
  content_state: ContentState
  person_id: number | null
  talk_id: number | null
  /** Bits of `HAS_BITS`. */
  has: number
}

export interface SightingsTable extends ItemColumns {
  id: SightingId
  finding_id: FindingId
  source_id: SourceId
  pass: Pass | 'picked'
  ordinal: number
  condition: Condition
  fields: JsonText
  content: JsonText | null
  origin: JsonText
  missing: JsonText
  confidence: number
  strong: Sha256 | null
  likeness: Sha256 | null
  /** The first 16 digits of a SHA-256. */
  version: string | null
}

export interface FindingsTable extends ItemColumns {
  id: FindingId
  identity: Sha256
  standing: Standing
  conversation: string
  conversation_title: string
  bytes: number
  best_sighting_id: SightingId | null
  sighting_count: number
  match_score: number
  binned_at: Date | null
  lost_after: Date | null
  lost_before: Date | null
}

export interface HandoversTable extends Claimable {
  id: HandoverId
  job_id: JobId
  kind: 'folder' | 'zip'
  destination: string
  state: HandoverState
  done: number
  total: number
  /** As the database gives large numbers: a number, or text. */
  done_bytes: number | string
  total_bytes: number | string
  options: JsonText | null
  summary: JsonText | null
  error: string | null
  created_at: Date
  ended_at: Date | null
}

export interface ReturnsTable {
  id: ReturnId
  job_id: JobId
  udid: string
  device_name: string
  kind: ReturnKind
  ids: JsonText
  titles: JsonText
  returned_at: Date
  undone_at: Date | null
}

export interface FingerprintsTable {
  sighting_id: SightingId
  job_id: JobId
  sha256: Sha256 | null
  coarse: Uint8Array | null
  fine: Uint8Array | null
  width: number | null
  height: number | null
}

export interface NotesTable {
  finding_id: FindingId
  job_id: JobId
  text: string
}

export interface NamesTable {
  id: number
  job_id: JobId
  kind: 'person' | 'talk'
  hash: string
  words: string
}

export interface IdentityAliasesTable {
  job_id: JobId
  category: CategoryId
  identity: Sha256
  joined_to: Sha256
}

export interface SavedViewsTable {
  id: number
  job_id: JobId
  name: string
  address: string
}

/** The tray: a bit for each finding, 64 neighbours by their ids in a row. */
export interface TrayBlocksTable {
  job_id: JobId
  block: number
  /** As text where a number cannot hold it. */
  bits: string | number
}

/** What one change of the tray put in or took out, so that it can be undone. */
export interface TrayStepsTable extends TrayBlocksTable {
  step: string
  put: Flag
  changed_at: Date
}

export interface SettingsTable {
  name: string
  value: JsonText
}

export interface BayDevicesTable {
  udid: string
  trusted_at: Date
}

export interface BayEventsTable {
  id: number
  udid: string
  name: string | null
  act: BayAct
  said: string
  job_id: JobId | null
  read_id: ReadId | null
  came_at: Date
  gone_at: Date | null
}

export interface CopyPlacesTable {
  id: CopyPlaceId
  path: string
  path_hash: Sha256
}

export interface CopyTasksTable extends Claimable {
  id: CopyTaskId
  place_id: CopyPlaceId
  /** Whose source is copied; null: a check or a removal. */
  job_id: JobId | null
  about: string | null
  work: JsonText
  state: CopyTaskState
  done: number
  total: number
  result: JsonText | null
  error: string | null
  created_at: Date
  ended_at: Date | null
  /** The regular copy that asked for it; null: somebody did. */
  regular_id: RegularCopyId | null
}

export interface RegularCopiesTable {
  id: RegularCopyId
  place_id: CopyPlaceId
  udid: string
  device_name: string | null
  part: DevicePart
  every_days: number
  operator: string
  created_at: Date
}

export interface CategoryLocksTable {
  job_id: JobId
  category: CategoryId
}

declare module 'knex/types/tables.js' {
  interface Tables {
    jobs: JobsTable
    log: LogTable
    log_heads: LogHeadsTable
    sources: SourcesTable
    reads: ReadsTable
    read_steps: ReadStepsTable
    sightings: SightingsTable
    findings: FindingsTable
    handovers: HandoversTable
    returns: ReturnsTable
    fingerprints: FingerprintsTable
    names: NamesTable
    notes: NotesTable
    identity_aliases: IdentityAliasesTable
    saved_views: SavedViewsTable
    tray_blocks: TrayBlocksTable
    tray_steps: TrayStepsTable
    settings: SettingsTable
    bay_devices: BayDevicesTable
    bay_events: BayEventsTable
    copy_places: CopyPlacesTable
    copy_tasks: CopyTasksTable
    regular_copies: RegularCopiesTable
    category_locks: CategoryLocksTable
  }
}
