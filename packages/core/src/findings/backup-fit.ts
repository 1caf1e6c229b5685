import type { SourceInfo } from '../backup/types.js'
import { mayHold } from '../categories/encrypted.js'
import type { CategoryId } from '../categories/registry.js'
import { dayIn } from '../io/time-zone.js'
import { deviceKeyOf, isNamed } from './devices.js'

/**
 * How a backup that was found fits a job. `best`: of its device the newest from before the loss; `before`: an older one;
 * `within` and `after`: from a day of the loss, or later; `undated`: it or the loss has no date. The others need not be
 * read: `copy`: the same state lies elsewhere too; `other`: another device's; `unable`: it never holds what is sought;
 * `added`: it is in the job.
 */
export const BACKUP_FITS = ['best', 'before', 'within', 'undated', 'after', 'copy', 'unable', 'other', 'added'] as const
export type BackupFit = (typeof BACKUP_FITS)[number]

/** Those that may bring something, in the order in which they are likely to. */
export const USEFUL_FITS: readonly BackupFit[] = ['best', 'before', 'within', 'undated', 'after']

/** A backup, as far as that tells how it fits. Dates as ISO 8601 has them. */
export type FitFacts = Pick<
  SourceInfo,
  'path' | 'deviceName' | 'uniqueId' | 'kind' | 'encrypted' | 'osVersion' | 'only' | 'complete'
> & {
  takenAt: string | null
  files: number
}

/** What a job asks of backups. */
export interface FitQuestion {
  /** First and last day of the loss, in the job's zone; null: not known. */
  from: string | null
  to: string | null
  zone: string
  /** Unique ids of the device that the brief is about; empty: no source says it yet. */
  devices: readonly string[]
  /** The words in which the brief names it. It counts where no source says which it is; with neither, each may be it. */
  named: string
  /** Categories that are sought; empty: anything. */
  wanted: readonly CategoryId[]
  /** Paths of what the job has. */
  added: readonly string[]
}

// One of longer ago is of another time of the device: older, and not the one that fits best.
const LONG_AGO_DAYS = 366
const DAY_MS = 86_400_000

/** How each backup fits, by its path. */
export function fitsOf(found: readonly FitFacts[], question: FitQuestion): Map<string, BackupFit> {
  const devices = new Set(question.devices.length > 0 ? question.devices.map(deviceKeyOf) : namedIn(found, question))
  const originals = originalsOf(found, question)
  const fits = new Map(found.map((one) => [one.path, fitOf(one, question, devices, originals)] as const))
  for (const newest of newestBefore(found, fits, question).values()) fits.set(newest.path, 'best')
  return fits
}

function fitOf(
  backup: FitFacts,
  { from, to, zone, wanted, added }: FitQuestion,
  devices: ReadonlySet<string>,
  originals: ReadonlySet<string>,
): BackupFit {
  if (added.includes(backup.path)) return 'added'
  if (devices.size > 0 && !(backup.uniqueId && devices.has(deviceKeyOf(backup.uniqueId)))) return 'other'
  if (!originals.has(backup.path)) return 'copy'
  if (wanted.length > 0 && !wanted.some((category) => mayHold(backup, category))) return 'unable'
  const first = from ?? to
  if (backup.takenAt === null || first === null) return 'undated'
  const day = dayIn(new Date(backup.takenAt), zone)
  if (day <= first) return 'before'
  return day <= (to ?? first) ? 'within' : 'after'
}

/** Keys of the devices that the brief names. */
function namedIn(found: readonly FitFacts[], { named }: FitQuestion): string[] {
  const words = named.trim().toLowerCase()
  return found.flatMap(({ deviceName, uniqueId }) =>
    uniqueId && isNamed(deviceName ?? '', words) ? [deviceKeyOf(uniqueId)] : [],
  )
}

/** The same state of the same device, found in several folders: what tells them apart. */
const stateOf = ({ uniqueId, takenAt, encrypted }: FitFacts): string | undefined =>
  uniqueId && takenAt ? `${deviceKeyOf(uniqueId)} ${Date.parse(takenAt)} ${encrypted}` : undefined

/** Of each state the folder that is taken for it: the one in the job, else a whole one, else the one with most files. */
function originalsOf(found: readonly FitFacts[], { added }: FitQuestion): Set<string> {
  const best = new Map<string, FitFacts>()
  const rank = (one: FitFacts) => [Number(added.includes(one.path)), Number(one.complete), one.files] as const
  for (const one of found) {
    const state = stateOf(one) ?? one.path
    const known = best.get(state)
    if (!known || isHigher(rank(one), rank(known))) best.set(state, one)
  }
  return new Set([...best.values()].map(({ path }) => path))
}

const isHigher = (one: readonly number[], other: readonly number[]): boolean => {
  const at = one.findIndex((value, i) => value !== other[i])
  return at >= 0 && (one[at] as number) > (other[at] as number)
}

/** Of each device the newest state from before the loss, unless that is long ago. */
function newestBefore(
  found: readonly FitFacts[],
  fits: ReadonlyMap<string, BackupFit>,
  { from, to }: FitQuestion,
): Map<string, FitFacts> {
  const newest = new Map<string, FitFacts>()
  const since = Date.parse(from ?? to ?? '') - LONG_AGO_DAYS * DAY_MS
  for (const one of found) {
    if (fits.get(one.path) !== 'before' || Date.parse(one.takenAt ?? '') < since) continue
    const device = one.uniqueId ? deviceKeyOf(one.uniqueId) : one.path
    if (Date.parse(one.takenAt ?? '') > Date.parse(newest.get(device)?.takenAt ?? '1970-01-01')) newest.set(device, one)
  }
  return newest
}

/** Puts backups into the order in which reading them answers soonest: by how they fit, the newest first. */
export function byFit<T extends Pick<FitFacts, 'path' | 'takenAt'>>(
  found: readonly T[],
  fits: ReadonlyMap<string, BackupFit>,
): T[] {
  const rank = ({ path }: T) => BACKUP_FITS.indexOf(fits.get(path) ?? 'undated')
  return [...found].sort(
    (a, b) => rank(a) - rank(b) || (b.takenAt ?? '').localeCompare(a.takenAt ?? '') || a.path.localeCompare(b.path),
  )
}
