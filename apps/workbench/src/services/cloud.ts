import { categoriesOf } from '@lumbrin/core/categories/library/index'
import { CloudClient } from '@lumbrin/core/cloud/client'
import { CloudCollector } from '@lumbrin/core/cloud/collector'
import { CloudError } from '@lumbrin/core/cloud/errors'
import { LIBRARY_LISTS, LibraryCollector, type LibraryPart } from '@lumbrin/core/cloud/library-collector'
import { beginSignIn, CloudLine, confirmSignIn, renewSession, signOut, type Tokens } from '@lumbrin/core/cloud/session'
import type { Session } from '@lumbrin/core/cloud/wire'
import { Collection, type CollectionHeader, collectionInfo, type NewHeader } from '@lumbrin/core/collected/collection'
import type { Collector, CollectorOptions } from '@lumbrin/core/collected/collector'
import { minuteIn } from '@lumbrin/core/io/time-zone'
import { readConfig } from '../config.js'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { insertSource, listSources } from '../database/sources.js'
import type { CloudState } from '../domain/cloud.js'
import { AppError } from '../domain/errors.js'
import type { JobId, SourceId } from '../domain/ids.js'
import { deviceStamp, settleIfChanged } from './devices.js'
import { askServer, requireReader } from './internal.js'
import { fetchedFolder } from './job-folder.js'
import { requireOpenJob } from './jobs.js'

interface Held {
  account: string
  session: Session
  /** A renewal that is on its way: all who need it wait for the same one. */
  renewing: Promise<void> | undefined
}

// Sessions live here and nowhere else: they go with the process. Passwords and codes are not kept at all.
const held = new Map<number, Held>()
const challenges = new Map<number, { account: string; challenge: string; sentTo: string }>()

function service(): string {
  const { cloudService } = readConfig()
  if (!cloudService) throw new AppError('conflict', 'No cloud service is set up on this computer.')
  return cloudService
}

/** Where signing in stands, and what the account has once it is done. */
export async function cloudState(jobId: JobId): Promise<CloudState> {
  if (!readConfig().cloudService) return { step: 'none' }
  const asked = challenges.get(jobId)
  if (asked) return { step: 'code', account: asked.account, sentTo: asked.sentTo }
  if (!held.has(jobId)) return { step: 'out' }
  try {
    return await signedIn(new CloudClient(new CloudLine(service(), tokensOf(jobId))))
  } catch (thrown) {
    if (!(thrown instanceof CloudError) || thrown.code !== 'signed-out') throw thrown
    held.delete(jobId)
    return { step: 'out' }
  }
}

async function signedIn(client: CloudClient): Promise<CloudState> {
  const account = await client.account()
  const archives = await client.archives()
  try {
    return { step: 'in', account, devices: await client.devices(), archives, problem: null }
  } catch (thrown) {
    // The library may be looked at all the same.
    if (!(thrown instanceof CloudError) || thrown.code !== 'extra-protection') throw thrown
    return { step: 'in', account, devices: [], archives, problem: thrown.message }
  }
}

/** The first step. The service sends a code to a device of the owner's. @throws CloudError */
export async function signInToCloud(jobId: JobId, account: string, password: string): Promise<void> {
  challenges.delete(jobId)
  challenges.set(jobId, { account, ...(await beginSignIn(service(), account, password)) })
}

/** The second step. @throws CloudError, AppError */
export async function confirmCloud(db: Db, jobId: JobId, code: string): Promise<void> {
  const asked = challenges.get(jobId)
  if (!asked) throw new AppError('conflict', 'Nobody is signing in. Begin with account and password.')
  try {
    const session = await confirmSignIn(service(), asked.challenge, code)
    held.set(jobId, { account: asked.account, session, renewing: undefined })
  } catch (thrown) {
    if (thrown instanceof CloudError && thrown.code === 'code-expired') challenges.delete(jobId)
    throw thrown
  }
  challenges.delete(jobId)
  await appendLog(db, jobId, 'Signed in to the cloud', `${asked.account}. Neither password nor code was kept.`)
}

/** Ends the session, or a signing in that was begun. */
export async function signOutOfCloud(db: Db, jobId: JobId): Promise<void> {
  challenges.delete(jobId)
  const session = held.get(jobId)
  if (!session) return
  held.delete(jobId)
  await signOut(service(), session.session.token)
  await appendLog(db, jobId, 'Signed out of the cloud', session.account)
}

/** Tokens of a job's session; a stale one is renewed once for all who ask. */
function tokensOf(jobId: JobId): Tokens {
  return async (stale) => {
    const session = held.get(jobId)
    if (!session) throw new CloudError('signed-out')
    if (session.session.token !== stale) return session.session.token
    session.renewing ??= renewSession(service(), session.session.refreshToken)
      .then((renewed) => {
        session.session = renewed
      })
      .finally(() => {
        session.renewing = undefined
      })
    await session.renewing
    return session.session.token
  }
}

/** A token for a reader that knows the secret. @throws AppError('not-found') otherwise */
export async function tokenForReader(jobId: JobId, stale: string | undefined, secret: string | null): Promise<string> {
  requireReader(secret)
  return tokensOf(jobId)(stale)
}

/** Tokens in another process than the one that holds the session. */
const askedTokens =
  (jobId: JobId): Tokens =>
  async (stale) => {
    const answer = await askServer(`/api/internal/cloud/${jobId}${stale ? `?stale=${encodeURIComponent(stale)}` : ''}`)
    if (!answer) throw new CloudError('signed-out')
    return ((await answer.json()) as { token: string }).token
  }

/** Adds a cloud backup to a job: its listing is fetched, so that sizes are known before any content is. */
export async function addSnapshot(db: Db, jobId: JobId, snapshotId: string): Promise<SourceId> {
  const client = new CloudClient(new CloudLine(service(), tokensOf(jobId)))
  for (const device of await client.devices())
    for (const snapshot of device.snapshots)
      if (snapshot.id === snapshotId)
        return addCollection(
          db,
          jobId,
          `cloud-${snapshotId}`,
          (options) => new CloudCollector(client, snapshotId, options),
          {
            kind: 'cloud-backup',
            deviceName: device.name,
            productType: device.productType,
            osVersion: device.osVersion,
            uniqueId: device.id,
            takenAt: snapshot.takenAt,
            installedApps: snapshot.installedApps,
            origin: { snapshot: snapshotId },
          },
        )
  throw new AppError('not-found', 'The account does not have this backup any more.')
}

/** Adds the library as it is now, with its bin. */
export async function addLibrary(db: Db, jobId: JobId): Promise<SourceId> {
  const { name } = await new CloudClient(new CloudLine(service(), tokensOf(jobId))).account()
  return addLibraryPart(db, jobId, { kind: 'now' }, new Date(), `Library of ${name}`)
}

/** Adds what the account kept of small items on one day. */
export async function addArchives(db: Db, jobId: JobId, takenAt: Date): Promise<SourceId> {
  const client = new CloudClient(new CloudLine(service(), tokensOf(jobId)))
  const ids = (await client.archives()).filter((one) => one.takenAt.getTime() === takenAt.getTime()).map(({ id }) => id)
  if (ids.length === 0) throw new AppError('not-found', 'The account has no archives of this day any more.')
  const { name } = await client.account()
  return addLibraryPart(db, jobId, { kind: 'archives', ids }, takenAt, `Archives of ${name}`)
}

async function addLibraryPart(db: Db, jobId: JobId, part: LibraryPart, takenAt: Date, name: string): Promise<SourceId> {
  const client = new CloudClient(new CloudLine(service(), tokensOf(jobId)))
  const lists = LIBRARY_LISTS.filter((list) => NOW.includes(list) === (part.kind === 'now'))
  const folder = part.kind === 'now' ? 'library' : `archives-${takenAt.toISOString().slice(0, 10)}`
  return addCollection(db, jobId, `cloud-${folder}`, (options) => new LibraryCollector(client, part, options), {
    kind: 'cloud-library',
    deviceName: name,
    productType: null,
    osVersion: null,
    uniqueId: null,
    takenAt,
    installedApps: [],
    only: categoriesOf(lists),
    origin: { library: part.kind, archives: part.kind === 'archives' ? part.ids.join(' ') : null },
  })
}

const NOW: readonly string[] = ['photos.jsonl', 'deleted-files.jsonl']

async function addCollection(
  db: Db,
  jobId: JobId,
  name: string,
  collectorOf: (options: CollectorOptions) => Collector,
  header: NewHeader,
): Promise<SourceId> {
  await requireOpenJob(db, jobId)
  const folder = fetchedFolder(jobId, name)
  if ((await listSources(db, jobId)).some(({ path }) => path === folder))
    throw new AppError('conflict', 'This job has that already. Read more of it in its row.')
  const collection = new Collection(folder)
  await collection.writeHeader(header)
  const quiet = { report: () => {}, progress: () => {}, signal: new AbortController().signal }
  await collectorOf({ folder, ...quiet }).begin(true)
  const files = (await collection.listing()).entries.filter(({ kind }) => kind === 'file')
  const bytes = files.reduce((sum, { size }) => sum + (size ?? 0), 0)
  const info = collectionInfo(folder, await collection.header())
  const before = await deviceStamp(db, jobId)
  const id = await insertSource(db, jobId, info, { bytes, files: files.length })
  if (id) await settleIfChanged(db, jobId, before)
  if (!id) throw new AppError('conflict', 'This job has that already. Read more of it in its row.')
  await appendLog(
    db,
    jobId,
    'Cloud source added',
    `${header.deviceName}, state of ${header.takenAt ? `${minuteIn(header.takenAt, 'UTC')} UTC` : 'no date'}`,
  )
  return id
}

/** Fetches for a read, in the reader's process. Undefined: the source is not of the cloud. */
export function cloudCollector(
  jobId: JobId,
  { origin }: CollectionHeader,
  options: CollectorOptions,
): Collector | undefined {
  const client = new CloudClient(new CloudLine(service(), readerTokens(jobId), options.signal))
  if (origin.snapshot) return new CloudCollector(client, origin.snapshot, options)
  if (origin.library === 'now') return new LibraryCollector(client, { kind: 'now' }, options)
  if (origin.library)
    return new LibraryCollector(client, { kind: 'archives', ids: origin.archives?.split(' ') ?? [] }, options)
  return undefined
}

/** The process that holds the session uses it; another one asks. */
const readerTokens = (jobId: JobId): Tokens => (held.has(jobId) ? tokensOf(jobId) : askedTokens(jobId))

/** True where the service answers for the session of a job's account. */
export async function cloudIsThere(jobId: JobId): Promise<boolean> {
  try {
    await new CloudClient(new CloudLine(service(), readerTokens(jobId))).account()
    return true
  } catch (thrown) {
    if (thrown instanceof CloudError || thrown instanceof AppError) return false
    throw thrown
  }
}
