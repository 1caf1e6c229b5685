import { join } from 'node:path'
import { revealSecret } from '@lumbrin/core/categories/credentials/index'
import { type BagCheck, checkBag } from '@lumbrin/core/export/bag-check'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { type PackageSummary, writePackage } from '@lumbrin/core/export/package'
import { readConfig } from '../config.js'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/jobs.js'
import {
  endHandover,
  findHandover,
  type HandoverRow,
  insertHandover,
  summariseTray,
  trayItems,
  updateHandover,
} from '../database/tray.js'
import { AppError } from '../errors.js'
import { briefSentence } from './brief.js'
import { requireJob } from './jobs.js'
import { jobRoute } from './route.js'
import { requireAllowedFolder } from './settings.js'
import { openContent, treeOf } from './trees.js'

/** Queues a handover of the tray into a folder, or as a package to be downloaded as a zip. */
export async function startHandover(
  db: Db,
  jobId: number,
  to: { kind: 'folder'; folder: string } | { kind: 'zip' },
): Promise<number> {
  await requireJob(db, jobId)
  const total = (await summariseTray(db, jobId)).reduce((sum, line) => sum + line.count, 0)
  if (total === 0) throw new AppError('conflict', 'The tray is empty. Put findings into it first.')
  const folder = to.kind === 'folder' ? await requireAllowedFolder(db, to.folder) : ''
  const id = await insertHandover(db, jobId, to.kind, folder, total)
  // A zip is packed on download, from a package in our own folder.
  if (to.kind === 'zip')
    await updateHandover(db, id, {
      destination: join(readConfig().dataFolder, 'packages', `job-${jobId}-handover-${id}`),
    })
  await appendLog(db, jobId, 'Handover started', to.kind === 'folder' ? folder : 'as a zip')
  return id
}

/** A handover. @throws AppError('not-found') */
export async function requireHandover(db: Db, id: number): Promise<HandoverRow> {
  const handover = await findHandover(db, id)
  if (!handover) throw new AppError('not-found', 'There is no such handover.')
  return handover
}

/** Compares the package of a handover with its manifest. @throws AppError, DestinationError where it is gone */
export async function checkHandover(db: Db, id: number): Promise<BagCheck> {
  const handover = await requireHandover(db, id)
  if (!handover.summary) throw new AppError('conflict', 'This handover wrote no package.')
  const check = await checkBag(handover.summary.path)
  const wrong = check.altered.length + check.missing.length + check.unlisted.length
  const words = `${check.checked} files, ${wrong === 0 ? 'all as written' : `${wrong} not as written`}`
  await appendLog(db, handover.jobId, 'Handover checked', `${handover.summary.path}: ${words}`)
  return check
}

/** Writes a claimed handover's package; its result, good or bad, is stored with it. */
export async function runHandover(db: Db, id: number, alive: () => Promise<void>): Promise<void> {
  const handover = await requireHandover(db, id)
  const job = await requireJob(db, handover.jobId)
  const { answer } = await jobRoute(db, handover.jobId)
  let told = 0
  const subject = {
    jobNumber: job.number,
    owner: job.owner,
    device: job.brief.device || null,
    sought: briefSentence(job.brief),
    answer: `${answer.answer}: ${answer.why}`,
  }
  const progress = (done: number) => {
    // Told now and then: a statement for every item would cost more than the item.
    if (done - told < 50) return
    told = done
    alive()
      .then(() => updateHandover(db, id, { done }))
      .catch(() => {})
  }
  try {
    const summary = await writePackage(itemsOf(db, handover.jobId), { to: handover.destination, subject, progress })
    await finish(db, handover, summary)
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : String(thrown)
    await endHandover(db, id, { error: why })
    await appendLog(db, handover.jobId, 'Handover failed', why)
  }
}

async function finish(db: Db, handover: HandoverRow, summary: PackageSummary): Promise<void> {
  await updateHandover(db, handover.id, { done: summary.items })
  await endHandover(db, handover.id, { summary })
  await appendLog(
    db,
    handover.jobId,
    'Handover done',
    `${summary.items} items, ${summary.files} files, ${summary.bytes} bytes in ${summary.path}`,
  )
}

async function* itemsOf(db: Db, jobId: number): AsyncGenerator<HandoverItem> {
  for await (const { standing, sourceId, sighting } of trayItems(db, jobId))
    yield {
      standing,
      sighting,
      open: (domain, path) => openContent(db, sourceId, domain, path),
      reveal: async (place) => revealSecret(await treeOf(db, sourceId), place),
    }
}
