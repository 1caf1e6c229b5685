import type { Db } from '../database/connection.js'
import { listNotes, saveNote } from '../database/notes.js'
import type { FindingId, JobId } from '../domain/ids.js'
import type { Note } from '../domain/note.js'
import { requireFinding } from './content.js'
import { requireOpenJob } from './jobs.js'

/** The notes of a job. */
export const notesOf = (db: Db, jobId: JobId): Promise<Note[]> => listNotes(db, jobId)

/** Notes something to a finding; an empty text takes the note away. @throws AppError */
export async function noteFinding(db: Db, id: FindingId, text: string): Promise<void> {
  const { jobId } = await requireFinding(db, id)
  await requireOpenJob(db, jobId)
  await saveNote(db, jobId, id, text)
}
