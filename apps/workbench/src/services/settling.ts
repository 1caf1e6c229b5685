import { setTimeout as sleep } from 'node:timers/promises'
import type { Db } from '../database/connection.js'
import { markSettled, markUnsettled, unsettledChanges, unsettledJobs } from '../database/jobs.js'
import { restandAll } from '../database/standings.js'
import type { JobId } from '../domain/ids.js'
import { log } from '../log.js'
import { forget } from './cached.js'

// A small job is settled when its brief's page answers; nobody waits for a large one.
const WAIT_MS = 2000

const running = new Map<JobId, Promise<void>>()

/**
 * Works out standings and matches of a job again after its brief changed. What is still to be done is on record, and is
 * done after a restart; a change that comes meanwhile is done behind the one at work.
 */
export async function settle(db: Db, jobId: JobId): Promise<void> {
  await markUnsettled(db, jobId)
  const work = (running.get(jobId) ?? Promise.resolve()).then(() => settleNow(db, jobId))
  running.set(jobId, work)
  await Promise.race([work, sleep(WAIT_MS, undefined, { ref: false })])
}

/** Finishes what an earlier process left undone. */
export async function settleLeftOver(db: Db): Promise<void> {
  for (const jobId of await unsettledJobs(db)) await settleNow(db, jobId)
}

async function settleNow(db: Db, jobId: JobId): Promise<void> {
  try {
    const changes = await unsettledChanges(db, jobId)
    // The work before this one may have seen the change already.
    if (changes === 0) return
    await restandAll(db, jobId)
    await markSettled(db, jobId, changes)
    forget(jobId)
  } catch (thrown) {
    log.error({ err: thrown, jobId }, 'a job was not settled')
  }
}
