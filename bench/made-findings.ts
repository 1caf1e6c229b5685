import { digest } from '@lumbrin/core/io/hash'
import type { Db } from '../apps/workbench/src/database/connection.js'
import type { NameKind } from '../apps/workbench/src/database/names.js'
import type { JobId } from '../apps/workbench/src/domain/ids.js'
import { insertMadeSource } from '../tests/setup/made-source.js'

/** Messages of one conversation, beside many short ones. */
export const LONG_TALK = 100_000
/** Each stands in a tenth of all messages twice. */
export const WORDS = ['lantern', 'stage', 'curtain', 'violin', 'wagon', 'fox', 'moon', 'paper', 'thunder', 'barn']
/** People, and their conversations. */
const PEOPLE = 300

/** Findings with a sighting each, made by the database itself. */
export async function fill(db: Db, jobId: JobId, total: number): Promise<void> {
  const { id: source } = await insertMadeSource(db, jobId, '/made', new Date(Date.UTC(2026, 5, 1)))
  const word = (expression: string) => `ELT(1 + (${expression}) % 10, ${WORDS.map((one) => `'${one}'`).join(', ')})`
  await db.raw(
    `INSERT INTO findings (job_id, category, identity, standing, happened_at, title, text, conversation, conversation_title, bytes, sighting_count, person_id, talk_id, has)
     SELECT ?, 'messages', SHA2(seq, 256), IF(seq % 2000 = 0, 'binned', ELT(1 + seq % 5, 'kept', 'kept', 'earlier', 'rebuilt', 'partial')),
            '2024-01-01' + INTERVAL seq MINUTE, CONCAT('Person ', seq % ${PEOPLE}),
            CONCAT(${word('seq')}, ' ', ${word('seq DIV 7')}, ' number ', seq), IF(seq <= ${LONG_TALK}, 'long', CONCAT('c', seq % ${PEOPLE})), CONCAT('Person ', seq % ${PEOPLE}), seq % 900, 1,
            ? + seq % ${PEOPLE}, ? + seq % ${PEOPLE}, IF(seq % 40 = 0, 1, 0)
     FROM seq_1_to_${total}`,
    [jobId, await insertNames(db, jobId, 'person'), await insertNames(db, jobId, 'talk')],
  )
  await db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, happened_at, title, text, fields, origin, missing, confidence)
     SELECT id, ?, job_id, category, 'live', id, 'live', happened_at, title, text,
            JSON_OBJECT('direction', 'in', 'sender', '+12025550100', 'conversation', conversation),
            JSON_OBJECT('domain', 'd', 'path', 'p', 'table', 'message', 'rowid', id, 'place', 'live', 'page', 1, 'offset', 1), '[]', 1
     FROM findings`,
    [source],
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
  for (const table of ['findings', 'sightings']) await db.raw(`ANALYZE TABLE ${table}`)
}

/** The names that messages are from, or in; the id of the first, which the others follow. */
async function insertNames(db: Db, jobId: JobId, kind: NameKind): Promise<number> {
  const words = Array.from({ length: PEOPLE }, (_, i) => `Person ${i}\n+1202555${String(i).padStart(4, '0')}`)
  const [first] = await db('names').insert(
    words.map((one) => ({ job_id: jobId, kind, hash: digest('sha1', one), words: one })),
  )
  return Number(first)
}
