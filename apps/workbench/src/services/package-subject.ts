import { fingerprintOf } from '@lumbrin/core/backup/fingerprint'
import { mayHold, whyNot } from '@lumbrin/core/categories/encrypted'
import { CATEGORIES } from '@lumbrin/core/categories/table'
import type { Letterhead, PackageSubject, ReadLine } from '@lumbrin/core/export/report'
import { minuteIn } from '@lumbrin/core/io/time-zone'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { logHead } from '../database/log.js'
import { countFacets } from '../database/queries.js'
import { listReads, listSources } from '../database/sources.js'
import { gapsOf, latestSteps, lookedWords } from '../domain/account-words.js'
import { briefSentence } from '../domain/brief-words.js'
import { plural } from '../domain/format.js'
import type { SourceId } from '../domain/ids.js'
import type { Job } from '../domain/job.js'
import { sourceName } from '../domain/labels.js'
import type { Shop } from '../domain/settings.js'
import type { Source } from '../domain/source.js'
import { gapCount, jobRoute } from './route.js'
import { loadSettings } from './settings.js'
import { treeOf } from './trees.js'

/** What the package's reports say of the job. */
export async function subjectOf(db: Db, job: Job): Promise<PackageSubject> {
  const { answer } = await jobRoute(db, job.id)
  const [sources, reads, { shop }] = await Promise.all([
    listSources(db, job.id),
    listReads(db, job.id),
    loadSettings(db),
  ])
  const checksums = await checksumsOf(db, sources)
  const checksumOf = ({ id }: Source) => checksums.get(id) ?? null
  const stateOf = ({ takenAt }: Source) => takenAt && minuteIn(takenAt, job.timeZone)
  return {
    shop: letterheadOf(shop),
    reads: sources.flatMap((source): ReadLine[] => {
      const steps = latestSteps(reads.filter(({ sourceId }) => sourceId === source.id))
      if (steps.length === 0) return []
      const gaps = steps.flatMap(gapsOf).map(({ label, words }) => `${label}: ${words}`)
      const line = { source: sourceName(source.info), takenAt: stateOf(source), looked: lookedWords(steps), gaps }
      return [{ ...line, checksum: checksumOf(source) }]
    }),
    jobNumber: job.number,
    jobUid: job.uid,
    owner: job.owner,
    device: job.brief.device || null,
    timeZone: job.timeZone,
    sought: briefSentence(job.brief),
    answer: `${answer.answer}: ${answer.why}`,
    notHad: await notHad(db, job),
    log: await logHead(db, job.id),
    sources: sources.map((source) => ({
      name: source.info.deviceName ?? 'without a name',
      path: source.path,
      takenAt: stateOf(source),
      checksum: checksumOf(source),
    })),
  }
}

/**
 * By what each source is told from one that was changed, in words. What is locked or away has none, nor has a raw image: to hash
 * all of it takes as long as to read it, and its read has put that into the log.
 */
async function checksumsOf(db: Db, sources: readonly Source[]): Promise<Map<SourceId, string>> {
  const words = new Map<SourceId, string>()
  for (const { id } of sources.filter(({ info }) => info.kind !== 'image')) {
    const sum = await treeOf(db, id)
      .then(fingerprintOf)
      .catch((thrown: unknown) => {
        if (isConnectionLoss(thrown)) throw thrown
        return undefined
      })
    if (sum)
      words.set(id, `SHA-256 over its ${plural(sum.files, 'list and database', 'lists and databases')}: ${sum.sha256}`)
  }
  return words
}

/** The head of the shop's papers; null: none was set. */
function letterheadOf({ name, address, mark }: Shop): Letterhead | null {
  if (name === '' && mark === null) return null
  return { name, address, mark: mark === null ? null : Buffer.from(mark.slice(mark.indexOf(',') + 1), 'base64') }
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
