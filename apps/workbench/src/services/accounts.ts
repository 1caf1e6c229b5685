import { isClosed } from '@lumbrin/core/categories/step-account'
import type { Db } from '../database/connection.js'
import { countContents, storeContentStates } from '../database/content-states.js'
import { keepAccount, listReads, restateEnded } from '../database/sources.js'
import type { JobId } from '../domain/ids.js'
import type { Read } from '../domain/source.js'

/** The accounts of reads, as long as what can be had of a source changes (docs/truth.md, rules 11 and 12). */

/** Brings the account of each step to what can be had of its contents now. @returns whether all of them are closed */
export async function closeAccounts(db: Db, { sourceId, steps }: Read): Promise<boolean> {
  const contents = await countContents(db, sourceId)
  let closed = true
  for (const step of steps) {
    if (!step.account) continue
    const account = { ...step.account, content: contents.get(`${step.category}/${step.pass}`) ?? {} }
    await keepAccount(db, step.id, account)
    closed &&= isClosed(account)
  }
  return closed
}

/** Does so for reads of these sources that ended: what was done may have a gap now, and the other way round. */
export async function recount(db: Db, jobId: JobId, sources: ReadonlySet<number>): Promise<void> {
  for (const read of await listReads(db, jobId))
    if (sources.has(read.sourceId) && (read.state === 'done' || read.state === 'gaps'))
      await restateEnded(db, read.id, (await closeAccounts(db, read)) ? 'done' : 'gaps')
}

/** Keeps that contents could not be read to their end. `unreadable`: the sightings, each with its source. */
export async function keepUnreadable(db: Db, jobId: JobId, unreadable: ReadonlyMap<number, number>): Promise<void> {
  if (unreadable.size === 0) return
  await storeContentStates(db, jobId, new Map([...unreadable.keys()].map((id) => [id, 'unreadable'])))
  await recount(db, jobId, new Set(unreadable.values()))
}
