import { RETRIABLE } from '@lumbrin/core/categories/content-states'
import { mayHold } from '@lumbrin/core/categories/encrypted'
import { CARVED_CATEGORIES, CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { isClosed, missingContents, skippedIn } from '@lumbrin/core/categories/step-account'
import { answerOf, type Gap } from '@lumbrin/core/findings/answer'
import { BIN_DAYS, binTime, DAY_MS } from '@lumbrin/core/findings/bin-days'
import { routeOf } from '@lumbrin/core/findings/route'
import type { KnownPlaces, MatchingCounts, RouteSource } from '@lumbrin/core/findings/route-facts'
import { missed, named } from '@lumbrin/core/findings/route-step'
import { dayIn } from '@lumbrin/core/io/time-zone'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { countMatching } from '../database/queries.js'
import { listReads } from '../database/sources.js'
import { type JobDevices, jobDevices, loadSaid, saveSaid } from '../database/states.js'
import { latestSteps } from '../domain/account-words.js'
import { type Brief, lossOf } from '../domain/brief.js'
import type { JobId } from '../domain/ids.js'
import { CATEGORY_LABELS, sourceName } from '../domain/labels.js'
import { ENDED } from '../domain/read-states.js'
import type { JobRoute } from '../domain/route.js'
import type { Read, Source } from '../domain/source.js'
import { requireJob, requireOpenJob } from './jobs.js'
import { lockState } from './keyring.js'
import { knownPlaces } from './known-places.js'

/** The route of a job; with `draft` as if its brief were that one. @throws AppError('not-found') */
export async function jobRoute(db: Db, jobId: JobId, draft?: Brief): Promise<JobRoute> {
  const job = await requireJob(db, jobId)
  const brief = draft ?? job.brief
  const timeZone = draft?.timeZone ?? job.timeZone
  const [devices, reads, matching, said] = await Promise.all([
    jobDevices(db, jobId),
    listReads(db, jobId),
    matchingCounts(db, jobId),
    loadSaid(db, jobId),
  ])
  const sources = devices.sources.map((source) => routeSource(source, reads, brief.categories, devices))
  const places = await knownPlaces(db, jobId, devices, brief.categories)
  const facts = {
    now: Date.now(),
    timeZone,
    categories: brief.categories,
    lost: lossOf(brief, timeZone),
    device: brief.deviceState,
    syncing: brief.syncing === 'not-known' ? null : brief.syncing === 'yes',
    sources,
    matching,
    hasLibrary: sources.some(({ kind }) => kind === 'cloud-library'),
    done: said.done,
    ...places,
  }
  const gaps = gapsOf(sources, brief.categories, places, timeZone)
  const lookedThrough = sources
    .filter((one) => one.canHold && one.read && one.residueRead && one.gaps === 0)
    .map(({ name, takenAt }) => `${name}${takenAt === null ? '' : ` (${dayIn(new Date(takenAt), timeZone)})`}`)
  const whole = matching.binned + matching.earlier + matching.rebuilt - matching.withoutContent
  const mine = sources.filter(({ ofBriefDevice }) => ofBriefDevice)
  const newest = mine.reduce<RouteSource | undefined>(
    (best, one) => ((one.takenAt ?? 0) >= (best?.takenAt ?? 0) ? one : best),
    undefined,
  )
  return {
    steps: routeOf(facts),
    answer: {
      ...answerOf({
        whole,
        partial: matching.partial + matching.withoutContent,
        elsewhere: matching.elsewhere,
        gaps,
        lookedThrough,
      }),
      gaps,
      lookedThrough,
    },
    matching,
    newestSourceId: newest?.id ?? null,
  }
}

/** Says that a step of the route was done by hand, or takes that back. @throws AppError */
export async function sayStepDone(db: Db, jobId: JobId, rule: string, done: boolean): Promise<void> {
  await requireOpenJob(db, jobId)
  const step = (await jobRoute(db, jobId)).steps.find((one) => one.rule === rule)
  const said = await loadSaid(db, jobId)
  const others = said.done.filter((one) => one !== rule)
  await saveSaid(db, jobId, { done: done ? [...others, rule] : others })
  await appendLog(db, jobId, done ? 'Step done by hand' : 'Step not done', step?.do ?? rule)
}

/** What keeps "not found so far" from being "not found" (docs/truth.md, rule 14). */
function gapsOf(
  sources: readonly RouteSource[],
  categories: readonly CategoryId[],
  { backups, snapshots }: KnownPlaces,
  timeZone: string,
): Gap[] {
  const able = sources.filter(({ canHold, foreign }) => canHold && !foreign)
  const gaps: Gap[] = able.flatMap((source): Gap[] => {
    const gap = (kind: Gap['kind'], words: string): Gap[] => [
      { kind, words: `${source.name}: ${words}`, sourceId: source.id },
    ]
    if (source.away !== null) return gap('away', source.away)
    if (source.locked && !source.read) return gap('locked', 'it is locked with a password')
    if (!source.read) return gap('not-read', 'it was not read for this yet')
    if (!source.residueRead) return gap('not-read', 'its leftovers were not read yet')
    return source.gaps > 0 ? gap('read-gaps', missed(source.gaps)) : []
  })
  if (sources.length === 0) gaps.push({ kind: 'no-source', words: 'The job has no source yet', sourceId: null })
  else if (able.length === 0)
    gaps.push({
      kind: 'cannot-hold',
      words: `No source of this job can hold ${categories.map((id) => CATEGORY_LABELS[id].toLowerCase()).join(', ') || 'what is sought'}`,
      sourceId: null,
    })
  for (const one of backups.filter(({ ofJobDevice }) => ofJobDevice))
    gaps.push({
      kind: 'not-added',
      words: `The backup ${named({ timeZone }, one)} on this computer was not added`,
      sourceId: null,
    })
  for (const one of (snapshots ?? []).filter(({ ofJobDevice }) => ofJobDevice))
    gaps.push({
      kind: 'not-added',
      words: `The cloud backup ${named({ timeZone }, one)} was not added`,
      sourceId: null,
    })
  return gaps
}

function routeSource(
  source: Source,
  reads: readonly Read[],
  wanted: readonly CategoryId[],
  { keys, brief, devices }: JobDevices,
): RouteSource {
  const { id, info, takenAt } = source
  const mine = reads.filter((read) => read.sourceId === id)
  const steps = mine.flatMap((read) => read.steps)
  const shown = new Set(steps.filter((step) => step.done > 0).map((step) => step.category))
  const sought =
    wanted.length > 0 ? wanted : CATEGORY_IDS.filter((category) => steps.some((one) => one.category === category))
  const able = sought.filter((category) => shown.has(category) || mayHold(info, category))
  const finished = (category: CategoryId, pass: string) =>
    steps.some((step) => step.category === category && step.pass === pass && step.finished)
  // Nothing is left over in what a service lists, nor in bytes without names but what carving finds.
  const passes = info.kind === 'image' ? ['carving'] : info.kind === 'cloud-library' ? ['live'] : ['live', 'residue']
  const done = (pass: string) =>
    able.length > 0 &&
    able.every((category) => (pass === 'carving' && !CARVED_CATEGORIES.includes(category)) || finished(category, pass))
  const active = mine.find((read) => !ENDED.includes(read.state))
  const locked = info.encrypted && lockState(id).state !== 'open'
  return {
    id,
    name: sourceName(info),
    kind: info.kind,
    takenAt: takenAt?.getTime() ?? null,
    ofBriefDevice: keys.get(id) === brief,
    foreign: devices.some(({ key, role }) => key === keys.get(id) && role === 'other'),
    locked,
    canHold: wanted.length === 0 || able.length > 0,
    read: done(passes[0] as string),
    residueRead: passes.length === 1 || done('residue'),
    gaps: gapCount(mine, wanted),
    busy: active !== undefined && active.state !== 'away' && active.state !== 'stopped',
    // What waits for its password is locked, and the route asks for that.
    away: active?.state === 'away' && !locked ? (active.waitsFor ?? '') : null,
  }
}

/** How many things of what is sought a source lists and could not give: stores, rows, pages, contents. */
export function gapCount(reads: readonly Read[], wanted: readonly CategoryId[]): number {
  let count = 0
  for (const { category, account } of latestSteps(reads)) {
    if (wanted.length > 0 && !wanted.includes(category)) continue
    if (!account || isClosed(account)) continue
    const stores = Object.values(account.stores).filter((state) => state === 'damaged' || state === 'missing').length
    const contents = missingContents(account).filter(([state]) => RETRIABLE.includes(state))
    count += stores + skippedIn(account) + contents.reduce((sum, [, many]) => sum + many, 0)
  }
  return count
}

/** Findings that match the brief, by standing. */
export async function matchingCounts(db: Db, jobId: JobId): Promise<MatchingCounts> {
  const now = new Date()
  const rows = await countMatching(db, jobId, new Date(now.getTime() - BIN_DAYS * DAY_MS))
  const of = (standing: string) => rows.find((row) => row.standing === standing)
  const count = (standing: string) => Number(of(standing)?.count ?? 0)
  const lacking = (standing: string) => Number(of(standing)?.lacking ?? 0)
  const time = binTime(of('binned')?.last ?? null, now)
  return {
    binned: count('binned'),
    leastDaysLeft: time?.state === 'left' ? time.days : null,
    earlier: count('earlier'),
    rebuilt: count('rebuilt'),
    partial: count('partial'),
    elsewhere: count('elsewhere'),
    withoutContent: lacking('binned') + lacking('earlier') + lacking('rebuilt'),
  }
}
