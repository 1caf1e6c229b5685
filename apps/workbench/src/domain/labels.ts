import type { SourceInfo, SourceKind } from '@lumbrin/core/backup/types'
import type { ContentState } from '@lumbrin/core/categories/content-states'
import { type CategoryId, DEFINITIONS, type Group } from '@lumbrin/core/categories/registry'
import type { StoreState } from '@lumbrin/core/categories/step-account'
import type { Pass } from '@lumbrin/core/categories/types'
import type { Answer } from '@lumbrin/core/findings/answer'
import type { RouteFacts } from '@lumbrin/core/findings/route-facts'
import type { CopyReason, SightingDetail } from './finding.js'
import type { PackageCheck } from './handover.js'
import type { ReadState } from './read-states.js'

/** Kinds of sources as they stand on screen. */
export const SOURCE_KINDS: Record<SourceKind, string> = {
  'computer-backup': 'computer backup',
  device: 'attached device',
  'cloud-backup': 'cloud backup',
  'cloud-library': 'cloud library',
  image: 'raw image',
}

/** A source in few words: sources of one device are told apart by where they come from. */
export function sourceName({ deviceName, kind }: Pick<SourceInfo, 'deviceName' | 'kind'>): string {
  const name = deviceName ?? 'Unnamed device'
  return SHORT_KINDS[kind] ? `${name} (${SHORT_KINDS[kind]})` : name
}
const SHORT_KINDS: Partial<Record<SourceKind, string>> = { device: 'cable', 'cloud-backup': 'cloud' }

/** Why a content cannot be had; empty: it can. */
export const CONTENT_STATE_WORDS: Record<ContentState, string> = {
  none: '',
  present: '',
  awaited: 'not fetched yet',
  absent: 'never in the source',
  lost: 'listed, but not in the source',
  unreadable: 'cannot be read whole',
  locked: 'locked',
  gone: 'not there any more when it was fetched',
}

/** What is wrong with a store of a source; empty: nothing. */
export const STORE_STATE_WORDS: Record<StoreState, string> = {
  whole: '',
  damaged: 'part of its database could not be read',
  missing: 'its database is listed, but cannot be opened',
  absent: 'the source holds none',
}

/** Category names as they stand on screen. */
export const CATEGORY_LABELS = Object.fromEntries(DEFINITIONS.map(({ id, label }) => [id, label])) as Record<
  CategoryId,
  string
>

/** States of a read, as they stand behind the word "Read". */
export const READ_STATE_WORDS: Record<ReadState, string> = {
  queued: 'waiting for the reader',
  running: 'running',
  stopping: 'stopping after this batch',
  stopped: 'stopped; what was found stays',
  away: 'waits for its source or its password',
  done: 'done',
  gaps: 'done, with gaps',
  failed: 'failed; what was found stays',
}

/** What each pass of a read looks for. */
export const PASS_WORDS: Record<Pass, string> = {
  live: 'what the source shows',
  residue: 'deleted rows in its databases',
  carving: 'files cut out of other files',
}

/** One category in one pass of a read, in words. */
export const stepWords = ({ category, pass }: { category: CategoryId; pass: Pass }): string =>
  pass === 'live' ? CATEGORY_LABELS[category] : `${CATEGORY_LABELS[category]} (${PASS_WORDS[pass]})`

/** Groups of categories as they stand on screen. */
export const GROUP_LABELS: Record<Group, string> = {
  people: 'People and words',
  pictures: 'Pictures and sound',
  web: 'The web',
  plans: 'Plans and places',
  device: 'The device and its apps',
}

/** What the technician may say of a device. */
export const DEVICE_ROLES = ['brief', 'owner', 'other'] as const
export type DeviceRole = (typeof DEVICE_ROLES)[number]

/** States of a device as a brief names them, each of which leads to another route. */
export const DEVICE_STATES = [
  'in-use',
  'put-aside',
  'locked',
  'does-not-start',
  'erased',
  'not-here',
] as const satisfies readonly RouteFacts['device'][]

/** The same as they stand on screen. */
export const DEVICE_STATE_WORDS: Record<RouteFacts['device'], string> = {
  'in-use': 'in use',
  'put-aside': 'put aside',
  locked: 'locked',
  'does-not-start': 'does not start',
  erased: 'erased',
  'not-here': 'not here',
}

/** Whether the owner let the cloud keep copies. */
export const SYNCING = ['not-known', 'yes', 'no'] as const
export const SYNCING_WORDS: Record<(typeof SYNCING)[number], string> = {
  'not-known': 'not known',
  yes: 'yes',
  no: 'no',
}

/** How far a brief is answered. */
export const ANSWER_WORDS: Record<Answer, string> = {
  found: 'Found',
  'found-in-part': 'Found in part',
  'not-found-so-far': 'Not found so far',
  'not-found': 'Not found',
}

/** By what a sighting became part of its finding. */
export const JOINED_BY_WORDS: Record<SightingDetail['joinedBy'], string> = {
  id: 'its own id',
  likeness: 'what it is like',
  hand: 'hand',
  alone: 'nothing else',
}

/** Why two pictures count as copies. */
export const COPY_REASON_WORDS: Record<CopyReason, string> = {
  'same-bytes': 'the same, byte by byte',
  'looks-the-same': 'looks the same',
  'same-name': 'has the same name; look at it',
}

/** Whether a package's manifests are what was signed. */
export const SIGNATURE_WORDS: Record<PackageCheck['signature'], string> = {
  none: 'not signed',
  valid: 'the signature fits',
  invalid: 'the signature does not fit',
}

/** Who says in which zone a job's times are. */
export const ZONE_SOURCES = ['brief', 'device', 'computer'] as const

export const ZONE_WORDS: Record<(typeof ZONE_SOURCES)[number], string> = {
  brief: 'as the brief says',
  device: 'as the device says',
  computer: 'which is this computer’s',
}
