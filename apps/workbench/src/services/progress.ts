import { setTimeout as sleep } from 'node:timers/promises'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Db } from '../database/connection.js'
import { listHandovers } from '../database/handovers.js'
import { countFacets, listConversations } from '../database/queries.js'
import { listReads } from '../database/sources.js'
import { suggestionsFor } from '../database/suggestions.js'
import { timeline } from '../database/timeline.js'
import { summariseTray } from '../database/tray.js'
import type { FindingFilter } from '../domain/filter.js'
import type { ConversationLine, Facets, Suggestions, Timeline } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { JobProgress } from '../domain/progress.js'
import type { Read } from '../domain/source.js'
import { cached, forget } from './cached.js'
import { requireJob } from './jobs.js'

// A page is not kept waiting for the counts of half a million findings.
const PATIENCE_MS = 150

export async function jobProgress(db: Db, jobId: JobId): Promise<JobProgress> {
  const [reads, handovers] = await Promise.all([listReads(db, jobId), listHandovers(db, jobId)])
  forgetAtTurns(jobId, reads)
  const [facets, tray] = await Promise.all([
    soon(facetsOf(db, jobId, '')),
    soon(cached(`tray ${jobId}`, () => summariseTray(db, jobId))),
  ])
  return { reads, handovers, facets, tray }
}

/** How the reads of a job stood when somebody looked last. */
const seen = new Map<number, string>()

/** Drops counts that are kept when a read begins or ends, so that they agree with the state that is shown. */
function forgetAtTurns(jobId: JobId, reads: readonly Read[]): void {
  const now = reads.map(({ id, state }) => `${id} ${state}`).join()
  if (seen.get(jobId) !== now) forget(jobId)
  seen.set(jobId, now)
}

/** What comes within the patience of a page, else null. @throws what the value's making throws in time */
function soon<T>(value: Promise<T>): Promise<T | null> {
  // Where it fails later, the next one who asks is told.
  value.catch(() => {})
  return Promise.race([value, sleep(PATIENCE_MS, null, { ref: false })])
}

/** Counts by category and standing of what holds these words. */
export const facetsOf = (db: Db, jobId: JobId, words: string): Promise<Facets> =>
  cached(`facets ${jobId}${words && ` ${words}`}`, async () => {
    if (!words) return countFacets(db, jobId)
    const { timeZone } = await requireJob(db, jobId)
    return countFacets(db, jobId, { text: words, zone: timeZone })
  })

/** The findings of a filter over time. */
export const timelineOf = (db: Db, jobId: JobId, filter: FindingFilter): Promise<Timeline> =>
  cached(`timeline ${jobId} ${JSON.stringify(filter)}`, () => timeline(db, jobId, filter))

/** The conversations of a filter with their counts. */
export const conversationsOf = (db: Db, jobId: JobId, filter: FindingFilter): Promise<ConversationLine[]> =>
  cached(`conversations ${jobId} ${JSON.stringify(filter)}`, () => listConversations(db, jobId, filter))

/** What a search of a category may ask for. */
export const suggestionsOf = (db: Db, jobId: JobId, category: CategoryId): Promise<Suggestions> =>
  cached(`suggestions ${jobId} ${category}`, () => suggestionsFor(db, jobId, category))
