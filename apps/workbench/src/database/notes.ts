import type { FindingId, JobId } from '../domain/ids.js'
import type { Note } from '../domain/note.js'
import type { Db } from './connection.js'
import { asId } from './json.js'

/** The notes of a job. */
export async function listNotes(db: Db, jobId: JobId): Promise<Note[]> {
  const rows = await db('notes').where({ job_id: jobId }).select('finding_id', 'text')
  return rows.map(({ finding_id, text }) => ({ finding: asId<FindingId>(finding_id), text }))
}

/** Notes something to a finding; an empty text takes the note away. */
export async function saveNote(db: Db, jobId: JobId, finding: FindingId, text: string): Promise<void> {
  if (text === '') await db('notes').where({ finding_id: finding }).delete()
  else await db('notes').insert({ finding_id: finding, job_id: jobId, text }).onConflict('finding_id').merge(['text'])
}
