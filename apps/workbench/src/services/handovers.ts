import { join, sep } from 'node:path'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { CATEGORIES } from '@lumbrin/core/categories/table'
import { type BagCheck, checkPackage } from '@lumbrin/core/export/bag-check'
import { formatsOffered } from '@lumbrin/core/export/formats'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { readConfig } from '../config.js'
import type { Db } from '../database/connection.js'
import { findHandover, insertHandover, moveHandover, updateHandover } from '../database/handovers.js'
import { loadSetting, saveSetting } from '../database/jobs.js'
import { appendLog } from '../database/log.js'
import { listSources } from '../database/sources.js'
import { sourcesOfTray, summariseTray } from '../database/tray.js'
import { AppError } from '../domain/errors.js'
import { formatBytes } from '../domain/format.js'
import type { Destination, Handover, HandoverOptions } from '../domain/handover.js'
import type { HandoverId, JobId } from '../domain/ids.js'
import { SIGNATURE_WORDS } from '../domain/labels.js'
import { requireJob, requireOpenJob } from './jobs.js'
import { lockState } from './keyring.js'
import { requireAllowedFolder } from './settings.js'
import { freeSpace } from './space.js'

/** Queues a handover of the tray into a folder, or as a package to be downloaded as a zip. */
export async function startHandover(
  db: Db,
  jobId: JobId,
  to: Destination,
  options: HandoverOptions = { formats: {}, duplicates: 'once' },
): Promise<HandoverId> {
  await requireOpenJob(db, jobId)
  const lines = await summariseTray(db, jobId)
  const total = lines.reduce((sum, line) => sum + line.count, 0)
  if (total === 0) throw new AppError('conflict', 'The tray is empty. Put findings into it first.')
  for (const [category, formats] of Object.entries(options.formats)) requireFormats(category as CategoryId, formats)
  await requireUnlocked(db, jobId)
  const folder = to.kind === 'folder' ? await requireAllowedFolder(db, to.folder) : ''
  const bytes = lines.reduce((sum, line) => sum + line.bytes, 0)
  await requireSpace(to.kind === 'folder' ? folder : readConfig().dataFolder, bytes)
  const second = await requireSecond(db, to, folder, options.second)
  if (second !== undefined) await requireSpace(second, bytes)
  await saveSetting(db, FORMATS, { ...(await rememberedFormats(db)), ...options.formats })
  const id = await insertHandover(
    db,
    jobId,
    to.kind,
    folder,
    { items: total, bytes },
    {
      ...options,
      ...(second === undefined ? {} : { second }),
    },
  )
  // A zip is packed on download, from a package in our own folder.
  if (to.kind === 'zip')
    await updateHandover(db, id, {
      destination: join(readConfig().dataFolder, 'packages', `job-${jobId}-handover-${id}`),
    })
  await appendLog(db, jobId, 'Handover started', to.kind === 'folder' ? folder : 'as a zip')
  return id
}

/** The real path of a second folder; undefined: none is wanted. @throws AppError where it cannot be one */
async function requireSecond(db: Db, to: Destination, first: string, second?: string): Promise<string | undefined> {
  if (second === undefined) return undefined
  if (to.kind !== 'folder') throw new AppError('invalid', 'A zip has no second folder. Copy it once it is downloaded.')
  const folder = await requireAllowedFolder(db, second)
  if (folder === first || folder.startsWith(`${first}${sep}`) || first.startsWith(`${folder}${sep}`))
    throw new AppError('invalid', 'The second folder is the first one, or lies in it. Choose one on another disk.')
  return folder
}

/** Files of a source that is locked cannot be copied: said at once, and not when half of the package is written. */
async function requireUnlocked(db: Db, jobId: JobId): Promise<void> {
  const needed = await sourcesOfTray(db, jobId)
  const sources = await listSources(db, jobId)
  const locked = sources.find(({ id, info }) => needed.includes(id) && info.encrypted && lockState(id).state !== 'open')
  if (!locked) return
  const name = locked.info.deviceName ?? locked.path
  const { timeZone } = await requireJob(db, jobId)
  const date = locked.takenAt ? `, state of ${dayIn(locked.takenAt, timeZone)},` : ''
  throw new AppError(
    'conflict',
    `The backup "${name}"${date} is locked, and items of the tray come from it. Unlock it with its password in Sources, then write the package.`,
  )
}

/** A handover whose package is whole. @throws AppError */
export async function requireFinishedHandover(db: Db, id: HandoverId): Promise<Handover> {
  const handover = await requireHandover(db, id)
  if (handover.state !== 'done') throw new AppError('conflict', 'This handover is not finished.')
  return handover
}

const FORMATS = 'handover-formats'

/** The formats that were chosen last, by category. */
export async function rememberedFormats(db: Db): Promise<HandoverOptions['formats']> {
  return ((await loadSetting(db, FORMATS)) as HandoverOptions['formats'] | undefined) ?? {}
}

function requireFormats(category: CategoryId, formats: readonly string[]): void {
  const { label } = CATEGORIES[category]
  if (formats.length === 0) throw new AppError('invalid', `Choose at least one format for ${label}.`)
  const offered: readonly string[] = formatsOffered(CATEGORIES[category])
  const unknown = formats.find((id) => !offered.includes(id))
  if (unknown) throw new AppError('invalid', `${label} cannot be written as "${unknown}".`)
}

// Pages, tables, manifests and the file system's own needs beside the files themselves.
const MARGIN = 1.05

async function requireSpace(folder: string, bytes: number): Promise<void> {
  const free = await freeSpace(folder)
  if (free >= bytes * MARGIN) return
  throw new AppError(
    'conflict',
    `The tray holds ${formatBytes(bytes)}, and only ${formatBytes(free)} are free there. Nothing was written; choose a folder on another disk, or take something out of the tray.`,
  )
}

/** A handover. @throws AppError('not-found') */
export async function requireHandover(db: Db, id: HandoverId): Promise<Handover> {
  const handover = await findHandover(db, id)
  if (!handover) throw new AppError('not-found', 'There is no such handover.')
  return handover
}

/** Asks a handover to stop. One that waits stops at once; what a running one had written is removed. */
export async function stopHandover(db: Db, id: HandoverId): Promise<void> {
  const { jobId } = await requireHandover(db, id)
  if (await moveHandover(db, id, ['queued'], 'stopped')) return appendLog(db, jobId, 'Handover stopped', 'not begun')
  if (!(await moveHandover(db, id, ['running'], 'stopping')))
    throw new AppError('conflict', 'This handover does not run.')
}

/** Compares the package of a handover with its manifest. @throws AppError, DestinationError where it is gone */
export async function checkHandover(db: Db, id: HandoverId): Promise<BagCheck> {
  const handover = await requireHandover(db, id)
  if (!handover.summary) throw new AppError('conflict', 'This handover wrote no package.')
  const check = await checkPackage(handover.summary.path)
  const wrong = check.altered.length + check.missing.length + check.unlisted.length
  const words = `${check.checked} files, ${wrong === 0 ? 'all as written' : `${wrong} not as written`}, ${SIGNATURE_WORDS[check.signature]}`
  await appendLog(db, handover.jobId, 'Handover checked', `${handover.summary.path}: ${words}`)
  return check
}
