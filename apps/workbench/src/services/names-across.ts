import { NamesAcross } from '@lumbrin/core/export/names-across'
import type { Db } from '../database/connection.js'
import { cardsOf } from '../database/people.js'
import type { JobId } from '../domain/ids.js'

/** What the cards of all sources of a job know of numbers and addresses. */
export async function namesAcross(db: Db, jobId: JobId): Promise<NamesAcross> {
  const names = new NamesAcross()
  for await (const card of cardsOf(db, jobId)) names.add(card)
  return names
}
