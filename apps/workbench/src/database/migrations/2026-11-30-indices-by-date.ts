import type { Knex } from 'knex'

/** Indices of findings that are dropped, with their columns. */
const BEFORE: Record<string, string[]> = {
  findings_job_id_category_happened_at_id_index: ['job_id', 'category', 'happened_at', 'id'],
  findings_over_time: ['job_id', 'category', 'happened_at', 'standing'],
  findings_job_id_category_conversation_happened_at_id_index: [
    'job_id',
    'category',
    'conversation',
    'happened_at',
    'id',
  ],
  findings_by_talk: ['job_id', 'category', 'conversation', 'standing', 'happened_at'],
  findings_by_person: ['job_id', 'person_id', 'category', 'standing', 'happened_at', 'id'],
  findings_in_talk: ['job_id', 'talk_id', 'category', 'standing', 'happened_at', 'id'],
  findings_having: ['job_id', 'category', 'has', 'standing', 'happened_at', 'id'],
}

/** Indices that take their place. */
const AFTER: Record<string, string[]> = {
  findings_by_date: ['job_id', 'category', 'happened_at', 'id', 'standing'],
  findings_of_conversation: ['job_id', 'category', 'conversation', 'happened_at', 'id', 'standing'],
  findings_of_person: ['job_id', 'person_id', 'category', 'happened_at', 'id', 'standing'],
  findings_of_talk: ['job_id', 'talk_id', 'category', 'happened_at', 'id', 'standing'],
  findings_that_have: ['job_id', 'category', 'has', 'happened_at', 'id', 'standing'],
}

/** One index both gives pages in order and counts by standing, where there were two: each costs time when rows come. */
export const up = (db: Knex): Promise<void> => exchange(db, BEFORE, AFTER)

export const down = (db: Knex): Promise<void> => exchange(db, AFTER, BEFORE)

/** The new ones first: a foreign key needs one of them at any time. */
async function exchange(db: Knex, old: Record<string, string[]>, next: Record<string, string[]>): Promise<void> {
  await db.schema.alterTable('findings', (table) => {
    for (const [name, columns] of Object.entries(next)) table.index(columns, name)
  })
  await db.schema.alterTable('findings', (table) => {
    for (const name of Object.keys(old)) table.dropIndex([], name)
  })
}
