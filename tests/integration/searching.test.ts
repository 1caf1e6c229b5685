import { describe, expect, inject, it } from 'vitest'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { allOf, type FindingFilter } from '../../apps/workbench/src/database/queries.js'
import { pageByReading } from '../../apps/workbench/src/database/reading-words.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource } from '../setup/made-source.js'
import { workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const COUNT = 3000

/** Messages, a minute apart in fives; the last ones have no date. */
async function fill(db: Db, jobId: number): Promise<void> {
  const { id: source } = await insertMadeSource(db, jobId, '/made', new Date(Date.UTC(2026, 5, 1)))
  await db.raw(
    `INSERT INTO findings (job_id, category, identity, standing, happened_at, title, text, sighting_count)
     SELECT ?, 'messages', SHA2(seq, 256), IF(seq % 7 = 0, 'rebuilt', 'kept'),
            IF(seq > ?, NULL, '2024-01-01' + INTERVAL seq DIV 5 MINUTE), CONCAT('Person ', seq % 30),
            CONCAT(IF(seq % 3 = 0, 'Lantern', IF(seq % 15 = 1, 'magiclantern', 'stage')), IF(seq % 2 = 0, ' cafés', ' barn'), ' number', seq), 1
     FROM seq_1_to_${COUNT}`,
    [jobId, COUNT - 20],
  )
  await db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, title, fields, origin, missing, confidence)
     SELECT id, ?, job_id, category, 'live', id, 'live', title, '{}', '{}', '[]', 1 FROM findings`,
    [source],
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
}

/** All ids of a filter, page after page. */
async function pages(db: Db, jobId: number, filter: FindingFilter): Promise<number[][]> {
  const found: number[][] = []
  for (let page = await pageOfFindings(db, jobId, filter, null); page.length > 0; ) {
    found.push(page.map(({ id }) => id))
    const { id, when } = page.at(-1) as (typeof page)[number]
    page = await pageOfFindings(db, jobId, filter, { id, when, score: 0, title: '', bytes: 0 })
  }
  return found
}

/** The same, from the index of words in one piece. */
const fromIndex = async (db: Db, jobId: number, words: string, direction: 'asc' | 'desc') =>
  (
    await db('findings')
      .where({ job_id: jobId, category: 'messages' })
      .whereRaw('MATCH (title, text) AGAINST (? IN BOOLEAN MODE)', [words])
      .orderBy([
        { column: 'happened_at', order: direction },
        { column: 'id', order: direction },
      ])
      .pluck('id')
  ).map(Number)

describe('a search for frequent words', () => {
  it.each([
    ['lantern', '+lantern*', 'newest', 1000],
    ['lantern', '+lantern*', 'oldest', 1000],
    ['lant cafe', '+lant* +cafe*', 'newest', 500],
    ['CAFÉ', '+café*', 'newest', 1500],
  ] as const)('%s gives page after page what the index of words gives', async (words, inIndex, order, count) => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId)
    const filter = { ...allOf('messages'), words, order }
    const read = await pageByReading(db, jobId, filter, [() => {}], 200)
    expect(read, 'the first page comes from reading').toHaveLength(200)
    const found = await pages(db, jobId, filter)
    expect(found[0]).toEqual(read)
    expect(found.flat()).toEqual(await fromIndex(db, jobId, inIndex, order === 'oldest' ? 'asc' : 'desc'))
    expect(found.flat()).toHaveLength(count)
  })

  it('is read in the order of the index, so that it can end early', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId)
    const statements: { sql: string; bindings: unknown[] }[] = []
    db.on('query', ({ sql, bindings }) => statements.push({ sql, bindings }))
    const end = (query: { where: (...words: unknown[]) => unknown }) =>
      void query.where('findings.happened_at', '<', new Date(Date.UTC(2024, 0, 1, 9)))
    await pageByReading(db, jobId, { ...allOf('messages'), words: 'lantern' }, [end as never], 200)
    const read = statements.filter(({ sql }) => sql.includes('ROWS EXAMINED'))
    expect(read.length).toBeGreaterThan(1)
    for (const { sql, bindings } of read) {
      const [[plan]] = await db.raw(`EXPLAIN ${sql}`, bindings as never)
      expect(plan).toMatchObject({ key: 'findings_job_id_category_happened_at_id_index' })
      expect(plan.Extra).not.toContain('filesort')
    }
  })
})

describe('a search', () => {
  it('of a rare word, or of more than words, is left to the indices', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId)
    const byReading = (more: Partial<FindingFilter>) =>
      pageByReading(db, jobId, { ...allOf('messages'), words: 'lantern', ...more }, [() => {}], 200)
    expect(await byReading({ words: 'number77' })).toBeUndefined()
    expect(await byReading({ words: 'lantern from:bram' })).toBeUndefined()
    expect(await byReading({ words: '"lantern cafés"' })).toBeUndefined()
    expect(await byReading({ standings: ['rebuilt'] })).toBeUndefined()
    expect(await byReading({ order: 'title' })).toBeUndefined()
    expect(await byReading({ conversation: '' })).toBeUndefined()
    expect(await pageOfFindings(db, jobId, { ...allOf('messages'), words: 'number77' }, null)).toHaveLength(11)
  })
})
