import { revealSecret } from '@lumbrin/core/categories/credentials/index'
import { mayHold, whyNot } from '@lumbrin/core/categories/encrypted'
import { CATEGORIES } from '@lumbrin/core/categories/table'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { type PackageSummary, writePackage } from '@lumbrin/core/export/package'
import type { PackageSubject } from '@lumbrin/core/export/report'
import { dayIn, minuteIn } from '@lumbrin/core/io/time-zone'
import { beat } from '../database/claims.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { endHandover, findHandover, moveHandover, updateHandover } from '../database/handovers.js'
import { appendLog, logHead } from '../database/log.js'
import { countFacets } from '../database/queries.js'
import { listReads, listSources } from '../database/sources.js'
import { trayItems } from '../database/tray.js'
import { briefSentence } from '../domain/brief-words.js'
import { formatBytes, plural } from '../domain/format.js'
import type { Handover } from '../domain/handover.js'
import type { HandoverId, JobId } from '../domain/ids.js'
import type { Job } from '../domain/job.js'
import { sourceName } from '../domain/labels.js'
import { keepUnreadable } from './accounts.js'
import { requireHandover } from './handovers.js'
import { requireJob } from './jobs.js'
import { gapCount, jobRoute } from './route.js'
import { ownSigner } from './signing-key.js'
import { forgetDamagedTrees, openContent, treeOf } from './trees.js'

const TELL_MS = 1000

class Stopped extends Error {
  override readonly name = 'Stopped'
}

/**
 * Writes a claimed handover's package; its result, good or bad, is stored with it. Where this process is told to end,
 * or the database goes away, what was written stays for the next attempt.
 * @throws the database's error when it is away
 */
export async function runHandover(db: Db, id: HandoverId, ending: AbortSignal): Promise<void> {
  const handover = await requireHandover(db, id)
  const job = await requireJob(db, handover.jobId)
  const watch = new Watch(db, id, ending)
  const unreadable = new Map<number, number>()
  try {
    await forgetDamagedTrees()
    const summary = await writePackage(itemsOf(db, handover.jobId, unreadable), {
      to: handover.destination,
      // The time tells it from a handover of the same number in another database.
      id: `lumbrin-handover-${id}-${handover.createdAt.getTime()}`,
      subject: await subjectOf(db, job),
      signer: await ownSigner(),
      formats: handover.options.formats,
      duplicates: handover.options.duplicates,
      signal: watch.signal,
      progress: (done) => watch.note(done),
      mayPass: (thrown) => isConnectionLoss(thrown) || ending.aborted,
    })
    await keepUnreadable(db, handover.jobId, unreadable)
    await finish(db, handover, summary)
  } catch (thrown) {
    if (isConnectionLoss(thrown)) throw thrown
    await endBadly(db, handover, thrown, ending)
  } finally {
    watch.end()
  }
}

async function endBadly(db: Db, { id, jobId }: Handover, thrown: unknown, ending: AbortSignal): Promise<void> {
  if (ending.aborted) {
    await moveHandover(db, id, ['running'], 'queued')
  } else if (thrown instanceof Stopped) {
    await moveHandover(db, id, ['stopping'], 'stopped')
    await appendLog(db, jobId, 'Handover stopped', 'What had been written was removed.')
  } else {
    const why = thrown instanceof Error ? thrown.message : String(thrown)
    await endHandover(db, id, { error: why })
    await appendLog(db, jobId, 'Handover failed', why)
  }
}

/** Tells the database how far a handover is, and learns from it when somebody wants it stopped. */
class Watch {
  readonly #stop = new AbortController()
  readonly #timer: NodeJS.Timeout
  readonly signal: AbortSignal
  #done = 0

  constructor(
    readonly db: Db,
    readonly id: HandoverId,
    ending: AbortSignal,
  ) {
    this.signal = AbortSignal.any([this.#stop.signal, ending])
    this.#timer = setInterval(() => {
      // The database may be away for a moment; the handover itself meets that at its next item.
      this.#tell().catch(() => {})
    }, TELL_MS)
  }

  note(done: number): void {
    this.#done = done
  }

  end(): void {
    clearInterval(this.#timer)
  }

  async #tell(): Promise<void> {
    await beat(this.db, 'handovers', this.id)
    await updateHandover(this.db, this.id, { done: this.#done })
    const { state } = (await findHandover(this.db, this.id)) ?? {}
    if (state === 'stopping') this.#stop.abort(new Stopped('stopped'))
  }
}

async function finish(db: Db, handover: Handover, summary: PackageSummary): Promise<void> {
  await updateHandover(db, handover.id, { done: summary.items })
  await endHandover(db, handover.id, { summary })
  await appendLog(
    db,
    handover.jobId,
    'Handover done',
    `${plural(summary.items, 'item')}, ${plural(summary.files, 'file')}, ${formatBytes(summary.bytes)} in ${summary.path}, read back from the disk${summary.missed > 0 ? `; the content of ${summary.missed} items could not be written` : ''}`,
  )
}

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
  const sources = await listSources(db, jobId)
  const nameOf = new Map(
    sources.map(({ id, info, takenAt }) => [
      id,
      `${sourceName(info)}${takenAt ? `, state of ${dayIn(takenAt, zone)}` : ''}`,
    ]),
  )
  for await (const { standing, sightingId, sourceId, source, sighting, note } of trayItems(db, jobId))
    yield {
      standing,
      sighting,
      ...(note === null ? {} : { note }),
      source: { name: nameOf.get(sourceId) ?? 'unnamed source', path: source },
      open: (domain, path, range) => openContent(db, sourceId, domain, path, range),
      unreadable: () => unreadable.set(sightingId, sourceId),
      reveal: async (place) => revealSecret(await treeOf(db, sourceId), place),
    }
}

/** What the package's reports say of the job. */
async function subjectOf(db: Db, job: Job): Promise<PackageSubject> {
  const { answer } = await jobRoute(db, job.id)
  const sources = await listSources(db, job.id)
  return {
    jobNumber: job.number,
    jobUid: job.uid,
    owner: job.owner,
    device: job.brief.device || null,
    timeZone: job.timeZone,
    sought: briefSentence(job.brief),
    answer: `${answer.answer}: ${answer.why}`,
    notHad: await notHad(db, job),
    log: await logHead(db, job.id),
    sources: sources.map(({ info, path, takenAt }) => ({
      name: info.deviceName ?? 'without a name',
      path,
      takenAt: takenAt && minuteIn(takenAt, job.timeZone),
    })),
  }
}

/** What was sought and is not there, with the reasons that are known. */
async function notHad(db: Db, { id, brief }: Job): Promise<string[]> {
  const [facets, sources, reads] = await Promise.all([countFacets(db, id), listSources(db, id), listReads(db, id)])
  const lines: string[] = []
  for (const category of brief.categories) {
    const { label } = CATEGORIES[category]
    const counts = facets[category] ?? {}
    const lost = (counts.binned ?? 0) + (counts.earlier ?? 0) + (counts.rebuilt ?? 0) + (counts.partial ?? 0)
    const never = sources.length > 0 && sources.every(({ info }) => !mayHold(info, category))
    if (never) lines.push(`${label}: ${whyNot(category)}`)
    else if (lost === 0)
      lines.push(
        counts.kept
          ? `${label}: none was found that is gone from the device; ${counts.kept} are still on it.`
          : `${label}: none was found in any source that was read.`,
      )
    else if (counts.partial) lines.push(`${label}: of ${counts.partial} only parts are left; the rest was overwritten.`)
  }
  for (const source of sources) {
    const mine = reads.filter((read) => read.sourceId === source.id)
    const name = sourceName(source.info)
    const away = mine.find((read) => read.state === 'away')
    const gaps = gapCount(mine, [])
    if (away) lines.push(`The source "${name}" is away: ${away.waitsFor}`)
    else if (!mine.some((read) => read.state === 'done' || read.state === 'gaps'))
      lines.push(`The source "${name}" was not read to its end.`)
    else if (gaps > 0) lines.push(`Of the source "${name}" ${gaps} things that it lists could not be had.`)
  }
  return lines
}
