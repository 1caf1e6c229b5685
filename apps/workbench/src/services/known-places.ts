import type { FoundBackup } from '@lumbrin/core/backup/discover'
import { mayHold } from '@lumbrin/core/categories/encrypted'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { deviceKeyOf } from '@lumbrin/core/findings/devices'
import type { KnownPlaces } from '@lumbrin/core/findings/route-facts'
import type { Db } from '../database/connection.js'
import type { JobDevices } from '../database/states.js'
import type { JobId } from '../domain/ids.js'
import { bayNow } from './bay.js'
import { cloudState } from './cloud.js'
import { searchForBackups } from './sources.js'

// A search walks whole folders: what it found is good for a while, and nobody waits for it longer than this.
const FRESH_MS = 60_000
const WAIT_MS = 1500
const MOST = 500

let found: FoundBackup[] = []
let searchedAt = 0
let searching: Promise<void> | undefined

/** Backups that lie on this computer, as far as they were found by now; the search goes on behind it. */
export async function backupsHere(db: Db): Promise<FoundBackup[]> {
  if (Date.now() - searchedAt > FRESH_MS)
    searching ??= search(db).finally(() => {
      searching = undefined
      searchedAt = Date.now()
    })
  if (searching && searchedAt === 0) await Promise.race([searching, new Promise((go) => setTimeout(go, WAIT_MS))])
  return found
}

async function search(db: Db): Promise<void> {
  const now: FoundBackup[] = []
  for await (const step of searchForBackups(db, null, AbortSignal.timeout(FRESH_MS)))
    if ('backup' in step && now.length < MOST) now.push(step.backup)
  found = now
}

/** Places that are known, were not added to a job yet, and can hold something of what it seeks. */
export async function knownPlaces(
  db: Db,
  jobId: JobId,
  { devices, sources }: JobDevices,
  wanted: readonly CategoryId[],
): Promise<KnownPlaces> {
  const paths = new Set(sources.map(({ path }) => path))
  const mine = new Set(devices.filter(({ role }) => role !== 'other').map(({ key }) => key))
  const isMine = (uniqueId: string | null) => uniqueId !== null && mine.has(deviceKeyOf(uniqueId))
  const [found, bay, cloud] = await Promise.all([
    backupsHere(db),
    bayNow(db).catch(() => undefined),
    cloudState(jobId).catch(() => undefined),
  ])
  const attached = bay?.devices.filter(({ state }) => state === 'ready') ?? []
  const hasDevice = (udid: string) =>
    sources.some(({ info }) => info.kind === 'device' && info.uniqueId?.toLowerCase() === udid.toLowerCase())
  const added = new Set(sources.map(({ path }) => path.split('/').at(-1)))
  const snapshots =
    cloud?.step === 'in'
      ? cloud.devices
          .filter(({ osVersion }) => canHold({ kind: 'cloud-backup', encrypted: false, osVersion }, wanted))
          .flatMap(({ id: device, name, snapshots: all }) =>
            all.map(({ id, takenAt }) => ({ id, name, takenAt: takenAt.getTime(), ofJobDevice: isMine(device) })),
          )
          .filter(({ id }) => !added.has(`cloud-${id}`))
      : null
  return {
    backups: found
      .filter((one) => !paths.has(one.path) && canHold(one, wanted))
      .map(({ path, deviceName, takenAt, encrypted, uniqueId }) => ({
        path,
        name: deviceName ?? path,
        takenAt: takenAt?.getTime() ?? null,
        encrypted,
        ofJobDevice: isMine(uniqueId),
      })),
    devices: attached
      .filter(({ udid }) => !hasDevice(udid) && (sources.length === 0 || isMine(udid)))
      .map(({ udid, name }) => ({ udid, name: name ?? udid })),
    snapshots,
  }
}

const canHold = (source: Parameters<typeof mayHold>[0], wanted: readonly CategoryId[]): boolean =>
  wanted.length === 0 || wanted.some((category) => mayHold(source, category))
