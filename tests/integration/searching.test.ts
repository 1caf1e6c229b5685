import { digest } from '@lumbrin/core/io/hash'
import { describe, expect, inject, it } from 'vitest'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import type { NameKind } from '../../apps/workbench/src/database/names.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { allOf } from '../../apps/workbench/src/database/queries.js'
import { type Page, readInOrder } from '../../apps/workbench/src/database/reading-in-order.js'
import type { FindingFilter } from '../../apps/workbench/src/domain/filter.js'
import { isLastPage, PAGE_SIZE, SHORTEST_PAGE } from '../../apps/workbench/src/domain/findings-query.js'
import type { FindingId, JobId } from '../../apps/workbench/src/domain/ids.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource } from '../setup/made-source.js'
import { workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const COUNT = 3000

/** Messages, a minute apart in fives; the last ones have no date. */
async function fill(db: Db, jobId: JobId, count = COUNT): Promise<void> {
  const { id: source } = await insertMadeSource(db, jobId, '/made', new Date(Date.UTC(2026, 5, 1)))
  await db.raw(
    `INSERT INTO findings (job_id, category, identity, person_id, talk_id, has, standing, happened_at, title, text, sighting_count)
     SELECT ?, 'messages', SHA2(seq, 256), ? + seq % 30, ? + seq % 9, IF(seq % 40 = 0, 1, 0),
            IF(seq % 7 = 0, 'rebuilt', IF(seq % 11 = 0, 'earlier', 'kept')),
            IF(seq > ?, NULL, '2024-01-01' + INTERVAL seq DIV 5 MINUTE), CONCAT('Person ', seq % 30),
            CONCAT(IF(seq % 3 = 0, 'Lantern', IF(seq % 15 = 1, 'magiclantern', 'stage')), IF(seq % 2 = 0, ' cafés', ' barn'), ' number', seq), 1
     FROM seq_1_to_${count}`,
    [jobId, await insertNames(db, jobId, 'person', 30), await insertNames(db, jobId, 'talk', 9), count - 20],
  )
  await db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, title, fields, origin, missing, confidence)
     SELECT id, ?, job_id, category, 'live', id, 'live', title, '{}', '{}', '[]', 1 FROM findings`,
    [source],
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
}

/** Names such as `Person 7`; the id of the first, which the others follow. */
async function insertNames(db: Db, jobId: JobId, kind: NameKind, count: number): Promise<number> {
  const words = range(0, count).map((i) => `${kind} ${i}`)
  const [first] = await db('names').insert(
    words.map((one) => ({ job_id: jobId, kind, hash: digest('sha1', one), words: one })),
  )
  return Number(first)
}

/** All ids of a filter, page after page. */
async function pages(db: Db, jobId: JobId, filter: FindingFilter): Promise<number[][]> {
  const found: number[][] = []
  for (let page = await pageOfFindings(db, jobId, filter, null); page.length > 0; ) {
    found.push(page.map(({ id }) => id))
    const { id, when, title } = page.at(-1) as (typeof page)[number]
    page = await pageOfFindings(db, jobId, filter, { id, when, score: 0, title, bytes: 0 })
  }
  return found
}

const firstPage = (jobId: JobId, filter: FindingFilter): Page => ({
  jobId,
  filter,
  tier: () => {},
  inOrder: (query) =>
    query.orderBy(
      ['happened_at', 'id'].map((column) => ({ column, order: filter.order === 'oldest' ? 'asc' : 'desc' })),
    ),
  size: 200,
})

/** The same, from the index of words in one piece. */
const fromIndex = async (db: Db, jobId: JobId, words: string, direction: 'asc' | 'desc') =>
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
    const read = await readInOrder(db, firstPage(jobId, filter))
    expect(read?.ids, 'the first page comes from reading').toHaveLength(200)
    const found = await pages(db, jobId, filter)
    expect(found[0]).toEqual(read?.ids)
    expect(found.flat()).toEqual(await fromIndex(db, jobId, inIndex, order === 'oldest' ? 'asc' : 'desc'))
    expect(found.flat()).toHaveLength(count)
  })

  it.each(['newest', 'oldest'] as const)('shows what it has found soon, and goes on behind it: %s', async (order) => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId, 3 * COUNT)
    // In a thirtieth of all texts: so many of them as a sample reads hold half a page.
    const found = await pages(db, jobId, { ...allOf('messages'), words: '"magiclantern barn"', order })
    expect(found[0]?.length).toBeGreaterThanOrEqual(SHORTEST_PAGE)
    expect(found[0]?.length).toBeLessThan(PAGE_SIZE)
    const expected = await fromIndex(db, jobId, '+magiclantern* +barn*', order === 'oldest' ? 'asc' : 'desc')
    expect(expected).toHaveLength(COUNT / 10)
    expect(found.flat()).toEqual(expected)
    // A short page is the last.
    for (const page of found.slice(0, -1)) expect(isLastPage(page.length, 'words')).toBe(false)
  })

  it('is read in the order of the index, so that it can end early', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId)
    const statements: { sql: string; bindings: unknown[] }[] = []
    db.on('query', ({ sql, bindings }) => statements.push({ sql, bindings }))
    const end = (query: { where: (...words: unknown[]) => unknown }) =>
      void query.where('findings.happened_at', '<', new Date(Date.UTC(2024, 0, 1, 9)))
    await readInOrder(db, { ...firstPage(jobId, { ...allOf('messages'), words: 'lantern' }), tier: end as never })
    const read = statements.filter(({ sql }) => sql.includes('ROWS EXAMINED'))
    expect(read.length).toBeGreaterThan(0)
    for (const { sql, bindings } of read) {
      const [[plan]] = await db.raw(`EXPLAIN ${sql}`, bindings as never)
      expect(plan).toMatchObject({ key: 'findings_by_date' })
      expect(plan.Extra).not.toContain('filesort')
    }
  })
})

/** A search of messages as the database holds them, said once more without it. */
type Holds = (message: Made) => boolean
interface Made {
  id: FindingId
  n: number
  when: number | null
  title: string
  text: string
  standing: string
}

const begins = (word: string) => (message: Made) =>
  `${message.title} ${message.text}`
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .some((token) => token.startsWith(word))

const SEARCHES: [words: string, more: Partial<FindingFilter>, holds: Holds][] = [
  ['number77', {}, begins('number77')],
  ['"stage barn"', {}, ({ text }) => text.includes('stage barn')],
  ['"stage cafés" number1', {}, (one) => one.text.includes('stage cafés') && begins('number1')(one)],
  ['"nowhere at all"', {}, () => false],
  ['lantern -cafés', {}, (one) => begins('lantern')(one) && !one.text.includes('cafés')],
  ['-lantern', {}, ({ text }) => !text.toLowerCase().includes('lantern')],
  ['-"stage barn"', {}, ({ text }) => !text.includes('stage barn')],
  ['from:"person 7"', {}, ({ n }) => n % 30 === 7],
  ['from:"person 7" stage', {}, (one) => one.n % 30 === 7 && begins('stage')(one)],
  ['from:person', {}, () => true],
  ['from:person -from:"person 2"', {}, ({ n }) => ![2, ...range(20, 30)].includes(n % 30)],
  ['in:"talk 3" barn', {}, (one) => one.n % 9 === 3 && begins('barn')(one)],
  ['has:attachment', {}, ({ n }) => n % 40 === 0],
  ['-has:attachment lantern', {}, (one) => one.n % 40 !== 0 && begins('lantern')(one)],
  ['standing:lost', {}, ({ standing }) => standing !== 'kept'],
  ['-standing:lost stage', {}, (one) => one.standing === 'kept' && begins('stage')(one)],
  ['standing:lost', { standings: ['rebuilt', 'kept'] }, ({ standing }) => standing === 'rebuilt'],
  ['standing:kept standing:rebuilt', {}, () => false],
  ['', { standings: ['rebuilt', 'earlier'] }, ({ standing }) => standing !== 'kept'],
  ['lantern', { standings: ['rebuilt', 'earlier'] }, (one) => one.standing !== 'kept' && begins('lantern')(one)],
  ['after:2024-01-01 before:2024', {}, () => false],
  ['before:2025 stage', {}, (one) => one.when !== null && begins('stage')(one)],
]

const range = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => from + i)

const compare: Record<'newest' | 'oldest' | 'title', (a: Made, b: Made) => number> = {
  // What has no date comes last downwards and first upwards.
  newest: (a, b) => (b.when ?? -1) - (a.when ?? -1) || b.id - a.id,
  oldest: (a, b) => (a.when ?? -1) - (b.when ?? -1) || a.id - b.id,
  title: (a, b) => (a.title < b.title ? -1 : a.title > b.title ? 1 : a.id - b.id),
}

describe('a search', () => {
  it('finds page after page what holds, in each order, by whichever way it is read', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
    await fill(db, jobId)
    const rows = await db('findings').where({ job_id: jobId }).select('*')
    const made: Made[] = rows.map((row) => ({
      ...row,
      id: row.id,
      text: row.text ?? '',
      n: Number(/number(\d+)/.exec(row.text ?? '')?.[1]),
      when: row.happened_at?.getTime() ?? null,
    }))
    for (const [words, more, holds] of SEARCHES)
      for (const order of ['newest', 'oldest', 'title'] as const) {
        const found = (await pages(db, jobId, { ...allOf('messages'), words, order, ...more })).flat()
        const expected = made.filter(holds).sort(compare[order])
        expect(found, `${words} ${order}`).toEqual(expected.map(({ id }) => id))
      }
  })
})
