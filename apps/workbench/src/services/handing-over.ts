import { revealSecret } from '@lumbrin/core/categories/credentials/index'
import { copyPackage } from '@lumbrin/core/export/bag-copy'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { type PackageSummary, writePackage } from '@lumbrin/core/export/package'
import { messageOf } from '@lumbrin/core/io/errors'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { beat } from '../database/claims.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { endHandover, findHandover, moveHandover, updateHandover } from '../database/handovers.js'
import { appendLog } from '../database/log.js'
import { listSources } from '../database/sources.js'
import { trayItems } from '../database/tray.js'
import { formatBytes, plural } from '../domain/format.js'
import type { Handover } from '../domain/handover.js'
import type { HandoverId, JobId } from '../domain/ids.js'
import type { Job } from '../domain/job.js'
import { sourceName } from '../domain/labels.js'
import { keepUnreadable } from './accounts.js'
import { requireHandover } from './handovers.js'
import { requireJob } from './jobs.js'
import { namesAcross } from './names-across.js'
import { subjectOf } from './package-subject.js'
import { ownSigner } from './signing-key.js'
import { siteOption } from './site.js'
import { forgetDamagedTrees, openContent, treeOf } from './trees.js'
import { Stopped, Watch } from './watch.js'

/**
 * Writes a claimed handover's package; its result, good or bad, is stored with it. Where this process is told to end,
 * or the database goes away, what was written stays for the next attempt.
 * @throws the database's error when it is away
 */
export async function runHandover(db: Db, id: HandoverId, ending: AbortSignal): Promise<void> {
  const handover = await requireHandover(db, id)
  const job = await requireJob(db, handover.jobId)
  const watch = new Watch(ending, { done: 0, doneBytes: 0 }, async (progress) => {
    await beat(db, 'handovers', id)
    await updateHandover(db, id, progress)
    return (await findHandover(db, id))?.state === 'stopping'
  })
  const unreadable = new Map<number, number>()
  try {
    await forgetDamagedTrees()
    const summary = await writePackage(itemsOf(db, handover.jobId, unreadable), {
      to: handover.destination,
      // The time tells it from a handover of the same number in another database.
      id: `lumbrin-handover-${id}-${handover.createdAt.getTime()}`,
      subject: await subjectOf(db, job),
      signer: await ownSigner(),
      ...(await siteOption()),
      formats: handover.options.formats,
      duplicates: handover.options.duplicates,
      partBytes: handover.options.partBytes,
      signal: watch.signal,
      progress: (done, doneBytes) => watch.note({ done, doneBytes }),
      mayPass: (thrown) => isConnectionLoss(thrown) || ending.aborted,
    })
    await keepUnreadable(db, handover.jobId, unreadable)
    await finish(db, handover, { ...summary, second: await copied(job, handover, summary, watch.signal) })
  } catch (thrown) {
    if (isConnectionLoss(thrown)) throw thrown
    await endBadly(db, handover, thrown, ending)
  } finally {
    watch.end()
  }
}

/**
 * Copies a finished package to its second folder. That it was stopped or could not be copied makes the first one no worse:
 * it is told.
 * @throws where this process is to end: the next attempt copies it
 */
async function copied(
  job: Job,
  { options: { second } }: Handover,
  { path }: PackageSummary,
  signal: AbortSignal,
): Promise<{ path: string; why: string | null } | null> {
  if (second === undefined) return null
  try {
    await copyPackage(path, second, { group: job.uid, signal })
    return { path: second, why: null }
  } catch (thrown) {
    if (signal.reason instanceof Stopped) return { path: second, why: 'It was stopped.' }
    signal.throwIfAborted()
    return { path: second, why: messageOf(thrown) }
  }
}

async function endBadly(db: Db, { id, jobId }: Handover, thrown: unknown, ending: AbortSignal): Promise<void> {
  if (ending.aborted) {
    await moveHandover(db, id, ['running'], 'queued')
  } else if (thrown instanceof Stopped) {
    await moveHandover(db, id, ['stopping'], 'stopped')
    await appendLog(db, jobId, 'Handover stopped', 'What had been written was removed.')
  } else {
    await fail(db, id, jobId, thrown instanceof Error ? thrown.message : String(thrown))
  }
}

async function fail(db: Db, id: HandoverId, jobId: JobId, why: string): Promise<void> {
  await endHandover(db, id, { error: why })
  await appendLog(db, jobId, 'Handover failed', why)
}

/** Ends a handover whose process ended by itself, again and again. `how`: a signal or an exit code. */
export async function endDied(db: Db, id: HandoverId, how: string): Promise<void> {
  const { jobId } = await requireHandover(db, id)
  const why = `The process that wrote the package ended by itself (${how}), perhaps for want of memory. Close other programs and hand over again, or hand over fewer items at a time.`
  await fail(db, id, jobId, why)
}

async function finish(db: Db, handover: Handover, summary: NonNullable<Handover['summary']>): Promise<void> {
  await updateHandover(db, handover.id, { done: summary.items })
  await endHandover(db, handover.id, { summary })
  await appendLog(
    db,
    handover.jobId,
    'Handover done',
    `${plural(summary.items, 'item')}, ${plural(summary.files, 'file')}, ${formatBytes(summary.bytes)} in ${summary.path}, read back from the disk${summary.missed > 0 ? `; the content of ${summary.missed} items could not be written` : ''}${secondWords(summary.second)}`,
  )
}

const secondWords = (second: NonNullable<Handover['summary']>['second']): string =>
  second ? `; ${second.why === null ? `copied to ${second.path}` : `not copied to ${second.path}: ${second.why}`}` : ''

/**
 * Every item of the tray with access to what its source holds. `unreadable` gets the sightings whose contents could not be
 * read to their end, each with its source.
 */
export async function* itemsOf(
  db: Db,
  jobId: JobId,
  unreadable = new Map<number, number>(),
): AsyncGenerator<HandoverItem> {
  const { timeZone: zone } = await requireJob(db, jobId)
  const [sources, names] = await Promise.all([listSources(db, jobId), namesAcross(db, jobId)])
  const nameOf = new Map(
    sources.map(({ id, info, takenAt }) => [
      id,
      `${sourceName(info)}${takenAt ? `, state of ${dayIn(takenAt, zone)}` : ''}`,
    ]),
  )
  for await (const { standing, sightingId, sourceId, source, sighting, note } of trayItems(db, jobId))
    yield {
      standing,
      sighting: names.given(sighting),
      ...(note === null ? {} : { note }),
      source: { name: nameOf.get(sourceId) ?? 'unnamed source', path: source },
      open: (domain, path, range) => openContent(db, sourceId, domain, path, range),
      unreadable: () => unreadable.set(sightingId, sourceId),
      reveal: async (place) => revealSecret(await treeOf(db, sourceId), place),
    }
}
