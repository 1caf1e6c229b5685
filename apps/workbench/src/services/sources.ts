import { stat } from 'node:fs/promises'
import { type SearchStep, searchBackups, sizeOnDisk, usualFolders } from '@lumbrin/core/backup/discover'
import { planRead } from '@lumbrin/core/categories/read'
import { type CategoryId, type Pass, USUAL_CATEGORIES, USUAL_PASSES } from '@lumbrin/core/categories/types'
import { Collection, collectionInfo } from '@lumbrin/core/collected/collection'
import { readSourceInfo } from '@lumbrin/core/collected/open'
import { SourceError } from '@lumbrin/core/io/errors'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/jobs.js'
import {
  findRead,
  findSource,
  insertRead,
  insertSource,
  moveRead,
  type ReadRow,
  type SourceRow,
} from '../database/sources.js'
import { AppError } from '../errors.js'
import { requireReadable } from './bay.js'
import { fetchedFolder } from './job-folder.js'
import { requireOpenJob } from './jobs.js'
import { loadSettings } from './settings.js'

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

/** Adds a backup to a job by its folder, or a raw image by its path. @throws AppError('unusable') when it is neither */
export async function addSource(db: Db, jobId: number, folder: string): Promise<number> {
  await requireOpenJob(db, jobId)
  const info = await readSourceInfo(folder, () => {}).catch((thrown: unknown) => {
    throw thrown instanceof SourceError
      ? new AppError('unusable', `${thrown.message} Nothing was added.`, { cause: thrown })
      : thrown
  })
  const size = info.kind === 'image' ? { bytes: (await stat(folder)).size, files: 1 } : await sizeOnDisk(folder)
  const id = await insertSource(db, jobId, info, size)
  if (!id) throw new AppError('conflict', 'This job has that source already.')
  await appendLog(db, jobId, 'Source added', `${info.deviceName ?? 'unnamed device'}, ${folder}`)
  return id
}

/** Adds an attached device to a job. What is read of it will lie in the job's data folder. @throws AppError */
export async function addDevice(db: Db, jobId: number, udid: string): Promise<number> {
  await requireOpenJob(db, jobId)
  const { name, productType, osVersion } = await requireReadable(udid)
  const folder = fetchedFolder(jobId, `device-${udid}`)
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
  const id = await insertSource(db, jobId, info, { bytes: 0, files: 0 })
  if (!id) throw new AppError('conflict', 'This job has that device already. Read more of it in its row.')
  await appendLog(db, jobId, 'Device added', `${name ?? 'unnamed device'}, ${udid}`)
  return id
}

/** Queues a read of a source. Categories and passes that were read before are not read again. */
export async function startRead(
  db: Db,
  sourceId: number,
  categories: readonly CategoryId[],
  passes: readonly Pass[],
  earlier: readonly ReadRow[],
): Promise<number> {
  const source = await requireSource(db, sourceId)
  await requireOpenJob(db, source.jobId)
  const mine = earlier.filter((read) => read.sourceId === sourceId)
  if (mine.some((read) => !['done', 'failed'].includes(read.state)))
    throw new AppError('conflict', 'This source is being read, or its read was stopped. Let that one go on instead.')
  const finished = new Set(
    mine.flatMap((read) => read.steps.filter((step) => step.finished).map((step) => `${step.category}/${step.pass}`)),
  )
  const steps = planRead(
    categories.length > 0 ? categories : USUAL_CATEGORIES,
    passes.length > 0 ? passes : USUAL_PASSES,
  ).filter((step) => !finished.has(`${step.category}/${step.pass}`))
  if (steps.length === 0) throw new AppError('conflict', 'All of that was read already; its findings are in the job.')
  const id = await insertRead(db, source, steps)
  await appendLog(
    db,
    source.jobId,
    'Read started',
    `${source.info.deviceName ?? source.path}: ${steps.map((step) => `${step.category} (${step.pass})`).join(', ')}`,
  )
  return id
}

async function requireSource(db: Db, id: number): Promise<SourceRow> {
  const source = await findSource(db, id)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  return source
}

/** Asks a read to stop. What was found so far stays. */
export async function stopRead(db: Db, id: number): Promise<void> {
  const read = await requireRead(db, id)
  const stopped = (await moveRead(db, id, ['queued'], 'stopped')) || (await moveRead(db, id, ['running'], 'stopping'))
  if (!stopped) throw new AppError('conflict', 'This read is not running.')
  await appendLog(db, read.jobId, 'Read stopped', 'What was found so far stays.')
}

/** Lets a stopped or failed read go on where it was. */
export async function resumeRead(db: Db, id: number): Promise<void> {
  const read = await requireRead(db, id)
  if (!(await moveRead(db, id, ['stopped', 'failed'], 'queued', { error: null })))
    throw new AppError('conflict', 'This read did not stop.')
  await appendLog(db, read.jobId, 'Read goes on', '')
}

async function requireRead(db: Db, id: number): Promise<ReadRow> {
  const read = await findRead(db, id)
  if (!read) throw new AppError('not-found', 'There is no such read.')
  return read
}
