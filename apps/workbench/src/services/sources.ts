import { stat } from 'node:fs/promises'
import { type SearchStep, searchBackups, sizeOnDisk, usualFolders } from '@lumbrin/core/backup/discover'
import type { SourceInfo } from '@lumbrin/core/backup/types'
import { planRead, type ReadStep } from '@lumbrin/core/categories/read'
import { type CategoryId, USUAL_CATEGORIES } from '@lumbrin/core/categories/registry'
import { isClosed } from '@lumbrin/core/categories/step-account'
import { type Pass, USUAL_PASSES } from '@lumbrin/core/categories/types'
import { Collection, collectionInfo } from '@lumbrin/core/collected/collection'
import { beginNextState } from '@lumbrin/core/collected/next-state'
import { readSourceInfo } from '@lumbrin/core/collected/open'
import { readCopy } from '@lumbrin/core/copies/place'
import { SourceError } from '@lumbrin/core/io/errors'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import {
  findRead,
  findSource,
  insertRead,
  insertSource,
  listAllSources,
  listReads,
  listSources,
  moveRead,
  sayDevice,
  sayName,
} from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import type { JobId, ReadId, SourceId } from '../domain/ids.js'
import { stepWords } from '../domain/labels.js'
import { ENDED } from '../domain/read-states.js'
import type { Read, Source } from '../domain/source.js'
import { requireReadable } from './bay.js'
import { deviceStamp, goByDeviceZone, settleIfChanged } from './devices.js'
import { fetchedFolder } from './job-folder.js'
import { requireOpenJob } from './jobs.js'
import { loadSettings } from './settings.js'

export { countActiveReads } from '../database/sources.js'

// A folder takes far less than this; naming each would drown whoever watches.
const TELL_EVERY_MS = 150

/** Looks for backups below a folder, or in the usual folders and those of Settings; tells where it is as it goes. */
export async function* searchForBackups(
  db: Db,
  folder: string | null,
  signal: AbortSignal,
): AsyncGenerator<SearchStep> {
  const folders = folder ? [folder] : [...(await loadSettings(db)).searchFolders, ...usualFolders()]
  let told = 0
  for await (const step of searchBackups(folders, signal)) {
    if ('backup' in step) yield step
    else if (Date.now() - told >= TELL_EVERY_MS) {
      told = Date.now()
      yield step
    }
  }
}

/** The sources of a job, in the order in which they were added. */
export const sourcesOf = (db: Db, jobId: JobId): Promise<Source[]> => listSources(db, jobId)

/** The sources of all jobs, with their job's number. */
export const sourcesOfAll = (db: Db): Promise<(Source & { jobNumber: string })[]> => listAllSources(db)

/** A source of a job with its reads, by the number in a page's address; undefined: the job has none such. */
export async function sourceIn(
  db: Db,
  jobId: JobId,
  text: string | null,
): Promise<{ source: Source; reads: Read[] } | undefined> {
  const source = (await listSources(db, jobId)).find(({ id }) => String(id) === text)
  return source && { source, reads: await readsOf(db, source) }
}

/** Adds a backup to a job by its folder, or a raw image by its path. @throws AppError('unusable') when it is neither */
export async function addSource(db: Db, jobId: JobId, folder: string): Promise<SourceId> {
  await requireOpenJob(db, jobId)
  const info = await readSourceInfo(folder, () => {}).catch((thrown: unknown) => {
    throw thrown instanceof SourceError
      ? new AppError('unusable', `${thrown.message} Nothing was added.`, { cause: thrown })
      : thrown
  })
  const size = await sizeOf(folder, info)
  const before = await deviceStamp(db, jobId)
  const id = await insertSource(db, jobId, info, size)
  if (!id) throw new AppError('conflict', 'This job has that source already.')
  await settleIfChanged(db, jobId, before)
  await appendLog(db, jobId, 'Source added', `${info.deviceName ?? 'unnamed device'}, ${folder}`)
  return id
}

async function sizeOf(folder: string, { kind, layout }: SourceInfo): Promise<{ bytes: number; files: number }> {
  if (kind === 'image') return { bytes: (await stat(folder)).size, files: 1 }
  if (layout !== 'copied') return sizeOnDisk(folder)
  // Its contents lie elsewhere in its place, beside those of others.
  const { bytes, files } = await readCopy(folder)
  return { bytes, files }
}

/** Adds an attached device to a job. What is read of it will lie in the job's data folder. @throws AppError */
export async function addDevice(db: Db, jobId: JobId, udid: string): Promise<SourceId> {
  await requireOpenJob(db, jobId)
  const { name, productType, osVersion, timeZone } = await requireReadable(udid)
  const folder = fetchedFolder(jobId, `device-${udid}`)
  await requireNew(db, jobId, folder, 'This job has that device already. Read more of it in its row.')
  const collection = new Collection(folder)
  await collection.writeHeader({
    kind: 'device',
    deviceName: name,
    productType,
    osVersion,
    uniqueId: udid,
    takenAt: new Date(),
    installedApps: [],
    origin: { udid },
  })
  const info = collectionInfo(folder, await collection.header())
  const before = await deviceStamp(db, jobId)
  const id = await insertSource(db, jobId, info, { bytes: 0, files: 0 })
  if (!id) throw new AppError('conflict', 'This device was added a moment ago.')
  if (timeZone) await goByDeviceZone(db, jobId, timeZone)
  await settleIfChanged(db, jobId, before)
  await appendLog(db, jobId, 'Device added', `${name ?? 'unnamed device'}, ${udid}`)
  return id
}

/** What lies in a folder belongs to a source with a date: nothing is written there again. @throws AppError */
export async function requireNew(db: Db, jobId: JobId, folder: string, words: string): Promise<void> {
  if ((await listSources(db, jobId)).some(({ path }) => path === folder)) throw new AppError('conflict', words)
}

/** What a read is to read; nothing named: the usual categories and passes. */
export interface ReadWish {
  categories?: readonly CategoryId[]
  passes?: readonly Pass[]
  /** What was read before is read anew. */
  again?: boolean
  /** Of how many matches on it stops by itself; null: it reads all. */
  enough?: number | null
}

/**
 * Queues a read of a source. What was read before is not read again, unless `again`: then what another try may bring is
 * tried, and nothing is stored twice. A device, an account or a backup that changed is read as a state of its own, which
 * is a source beside the earlier one: what was seen before keeps its date (docs/truth.md, rule 4).
 */
export async function startRead(
  db: Db,
  sourceId: SourceId,
  { categories = [], passes = [], again = false, enough = null }: ReadWish,
): Promise<ReadId> {
  let source = await requireSource(db, sourceId)
  await requireOpenJob(db, source.jobId)
  const mine = await readsOf(db, source)
  if (mine.some((read) => !ENDED.includes(read.state)))
    throw new AppError('conflict', 'This source is being read, or its read was stopped. Let that one go on instead.')
  const wanted = planRead(
    categories.length > 0 ? categories : USUAL_CATEGORIES,
    passes.length > 0 ? passes : USUAL_PASSES,
  )
  const done = mine.flatMap((read) => read.steps.filter((step) => step.finished))
  let steps = again ? wanted.filter((step) => isAmong(step, done)) : wanted.filter((step) => !isAmong(step, done))
  if (!again && done.length > 0 && (await hasNewState(source))) {
    source = await addNextState(db, source)
    steps = wanted
  }
  if (steps.length === 0)
    throw new AppError(
      'conflict',
      'All of that was read already; its findings are in the job. Choose “Read again” to try anew what could not be had.',
    )
  const id = await insertRead(db, source, steps, { mode: again ? 'again' : 'read', enough })
  await appendLog(
    db,
    source.jobId,
    again ? 'Read again' : 'Read started',
    `${source.info.deviceName ?? source.path}: ${steps.map(stepWords).join(', ')}`,
  )
  return id
}

const readsOf = async (db: Db, { id, jobId }: Source): Promise<Read[]> =>
  (await listReads(db, jobId)).filter((read) => read.sourceId === id)

const isAmong = (step: ReadStep, list: readonly ReadStep[]) =>
  list.some((one) => one.category === step.category && one.pass === step.pass)

/** Tries again all of a source that could not be had: stores, rows and contents. @throws AppError */
export async function tryAgain(db: Db, sourceId: SourceId): Promise<ReadId> {
  const steps = (await readsOf(db, await requireSource(db, sourceId))).flatMap((read) =>
    read.steps.filter((step) => step.account && !isClosed(step.account)),
  )
  const categories = [...new Set(steps.map((step) => step.category))]
  if (categories.length === 0) throw new AppError('conflict', 'Nothing is missing of this source.')
  return startRead(db, sourceId, { categories, passes: [...new Set(steps.map((step) => step.pass))], again: true })
}

/** True where what the source shows now may be another state than the one that was read. */
async function hasNewState({ info, path, takenAt }: Source): Promise<boolean> {
  if (info.kind === 'device') return true
  if (info.kind === 'cloud-library') return (await new Collection(path).header()).origin.library === 'now'
  if (info.kind !== 'computer-backup') return false
  const now = await readSourceInfo(path, () => {}).catch(() => undefined)
  return now?.takenAt != null && now.takenAt.getTime() !== takenAt?.getTime()
}

/** Adds what a source shows now beside what it showed when it was read. */
async function addNextState(db: Db, source: Source): Promise<Source> {
  const stamp = new Date()
    .toISOString()
    .replace(/[^0-9]/g, '')
    .slice(0, 14)
  let info: SourceInfo
  if (source.info.layout === 'collected') {
    const folder = `${source.path.replace(/-state-\d+$/, '')}-state-${stamp}`
    await beginNextState(source.path, folder)
    info = collectionInfo(folder, await new Collection(folder).header())
  } else info = await readSourceInfo(source.path, () => {})
  const id = await insertSource(db, source.jobId, info, { bytes: source.bytes, files: source.files }, `#${stamp}`)
  if (!id) throw new AppError('conflict', 'This state was added a moment ago. Try again.')
  if (source.saidDevice) await sayDevice(db, id, source.saidDevice)
  if (source.saidName) await sayName(db, id, source.saidName)
  await appendLog(
    db,
    source.jobId,
    'New state added',
    `${info.deviceName ?? info.path}: what was seen before keeps its date.`,
  )
  return requireSource(db, id)
}

async function requireSource(db: Db, id: SourceId): Promise<Source> {
  const source = await findSource(db, id)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  return source
}

/** Asks a read to stop. What was found so far stays. */
export async function stopRead(db: Db, id: ReadId): Promise<void> {
  const read = await requireRead(db, id)
  const stopped =
    (await moveRead(db, id, ['queued', 'away'], 'stopped')) || (await moveRead(db, id, ['running'], 'stopping'))
  if (!stopped) throw new AppError('conflict', 'This read is not running.')
  await appendLog(db, read.jobId, 'Read stopped', 'What was found so far stays.')
}

/** Lets a read go on where it was that was stopped, failed, or waits for its source; to its end, whatever is found. */
export async function resumeRead(db: Db, id: ReadId): Promise<void> {
  const read = await requireRead(db, id)
  if (!(await moveRead(db, id, ['stopped', 'failed', 'away'], 'queued', { error: null, enough: null })))
    throw new AppError('conflict', 'This read did not stop.')
  await appendLog(db, read.jobId, 'Read goes on', '')
}

async function requireRead(db: Db, id: ReadId): Promise<Read> {
  const read = await findRead(db, id)
  if (!read) throw new AppError('not-found', 'There is no such read.')
  return read
}
