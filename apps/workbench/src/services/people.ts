import type { Db } from '../database/connection.js'
import { type Behind, countPerson, knownAs, pageOfPerson, type Which } from '../database/people.js'
import type { FindingLine } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { Person } from '../domain/person.js'
import { requireJob } from './jobs.js'

/** Everything with one person, counted. @throws AppError('not-found') */
export async function personOf(db: Db, jobId: JobId, name: string): Promise<Person> {
  await requireJob(db, jobId)
  const known = await knownAs(db, jobId, name)
  return { name, addresses: known.addresses, counts: await countPerson(db, jobId, known) }
}

/** A page of everything with one person, of one category or of all. */
export async function findingsOfPerson(
  db: Db,
  jobId: JobId,
  name: string,
  page: Which & { behind: Behind | null },
): Promise<FindingLine[]> {
  await requireJob(db, jobId)
  return pageOfPerson(db, jobId, await knownAs(db, jobId, name), page)
}
