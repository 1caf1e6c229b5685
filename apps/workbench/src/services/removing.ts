import { rm } from 'node:fs/promises'
import { sep } from 'node:path'
import type { Db } from '../database/connection.js'
import { listHandovers } from '../database/handovers.js'
import { appendLog } from '../database/log.js'
import { countRemoval, deleteSource, markRemoved, removedSources, removeSightings } from '../database/removal.js'
import { findSource, listSources } from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import type { JobId, SourceId } from '../domain/ids.js'
import { sourceName } from '../domain/labels.js'
import type { Removal, Source } from '../domain/source.js'
import { log } from '../log.js'
import { forget } from './cached.js'
import { deviceStamp, settleIfChanged } from './devices.js'
import { foldersOf } from './job-folder.js'
import { requireOpenJob } from './jobs.js'
import { forgetKeys } from './keyring.js'
import { settle } from './settling.js'
import { forgetTree } from './trees.js'

/** What would go with a source. @throws AppError('not-found') */
export async function previewRemoval(db: Db, id: SourceId): Promise<Removal> {
  const source = await requireSource(db, id)
  return { ...(await countRemoval(db, source)), fetched: await isOurs(db, source) }
}

/**
 * Takes a source out of its job, with all that it alone shows. What lies in its place on this computer is not touched;
 * what was fetched or brought in for the job goes. It is out of every list at once; the rest is done behind that, and goes
 * on after a restart. @throws AppError where it is being read, or items of it are being handed over
 */
export async function removeSource(db: Db, id: SourceId): Promise<void> {
  const source = await requireSource(db, id)
  const { jobId } = source
  await requireOpenJob(db, jobId)
  const handovers = await listHandovers(db, jobId)
  if (handovers.some(({ state }) => AT_WORK.includes(state)))
    throw new AppError('conflict', 'A handover of this job is being written. Remove the source when it has ended.')
  const before = await deviceStamp(db, jobId)
  const ours = await isOurs(db, source)
  if (!(await markRemoved(db, id)))
    throw new AppError('conflict', 'This source is being read, or waits for it. Stop that first, then remove it.')
  await appendLog(db, jobId, 'Source removed', `${sourceName(source.info)}, ${source.path}`)
  forgetKeys(id)
  await forgetTree(id)
  if (ours) await rm(source.path, { recursive: true, force: true })
  await settleIfChanged(db, jobId, before)
  void finish(db, id, jobId)
}

const AT_WORK = ['queued', 'running', 'stopping']

/** Finishes what an earlier process left undone. */
export async function removeLeftOver(db: Db): Promise<void> {
  for (const { id, jobId } of await removedSources(db)) await finish(db, id, jobId)
}

async function finish(db: Db, id: SourceId, jobId: JobId): Promise<void> {
  try {
    while (await removeSightings(db, id, jobId)) forget(jobId)
    await deleteSource(db, id)
    // Which source is the newest may have changed for all.
    await settle(db, jobId)
    forget(jobId)
  } catch (thrown) {
    log.error({ err: thrown, jobId }, 'a source was not removed to its end; the next start goes on')
  }
}

async function requireSource(db: Db, id: SourceId): Promise<Source> {
  const source = await findSource(db, id)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  return source
}

/** True for content that was fetched or brought in for this job, and that no other source of it lies in. */
async function isOurs(db: Db, { id, jobId, path }: Source): Promise<boolean> {
  const folders = await foldersOf(jobId)
  const others = (await listSources(db, jobId)).filter((one) => one.id !== id)
  return (
    folders.some((folder) => path.startsWith(folder.path + sep)) &&
    others.every((one) => one.path !== path && !one.path.startsWith(path + sep) && !path.startsWith(one.path + sep))
  )
}
