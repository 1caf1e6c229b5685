import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setImmediate } from 'node:timers/promises'
import type { Sighting } from '@lumbrin/core/categories/types'
import { connect, type Db } from '../apps/workbench/src/database/connection.js'
import { storeBatch } from '../apps/workbench/src/database/findings.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { pageOfFindings } from '../apps/workbench/src/database/pages.js'
import { allOf, countFacets } from '../apps/workbench/src/database/queries.js'
import { type Prepared, prepare } from '../apps/workbench/src/database/sighting-rows.js'
import { dateStep, findRead, insertRead, keepAccount } from '../apps/workbench/src/database/sources.js'
import { restandCategory } from '../apps/workbench/src/database/standings.js'
import { suggestionsFor } from '../apps/workbench/src/database/suggestions.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import type { JobId } from '../apps/workbench/src/domain/ids.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { insertMadeSource } from '../tests/setup/made-source.js'

const SOURCES = 5
const BATCH = 500
const ROUNDS = 60
// As in the reader.
const LISTEN_EVERY = 25

/**
 * Merges very many sightings of five sources, against a plain load of the same rows into the same database, and times
 * what the Findings view asks for: `npm run bench -- findings [SIGHTINGS]`.
 */
export async function benchFindings(words: string[]): Promise<void> {
  const total = Number(words[0] ?? 1_000_000)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-findings-'))
  const server = await startDatabase(folder, 'lumbrin_bench')
  const db = connect(server.url)
  // The application's settings, where the bench itself calls into it.
  process.env.LUMBRIN_DATABASE_URL = server.url
  process.env.LUMBRIN_DATA = folder
  try {
    await migrate(db)
    const job = await openJob(db, briefSchema.parse({ owner: 'Bench', words: 'lantern', categories: ['messages'] }))
    const merged = await timed(() => mergeAll(db, job.id, total))
    const loaded = await timed(() => loadPlainly(db, total))
    console.log(
      `${total} sightings of ${SOURCES} sources merged in ${merged.toFixed(1)} s, loaded plainly in ${loaded.toFixed(1)} s; ratio ${(merged / loaded).toFixed(2)}; memory ${Math.round(process.memoryUsage().rss / 1e6)} MB`,
    )
    await timeViews(db, job.id)
  } finally {
    await db.destroy()
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Each source shows most of the same items, some only its own. */
async function mergeAll(db: Db, jobId: JobId, total: number): Promise<void> {
  const each = Math.floor(total / SOURCES)
  for (let source = 0; source < SOURCES; source++) {
    const row = await insertMadeSource(db, jobId, `/made/${source}`, new Date(Date.UTC(2026, source, 1)), true)
    const { id } = row
    const readId = await insertRead(db, row, [{ category: 'messages', pass: 'live' }])
    const step = (await findRead(db, readId))?.steps[0]
    if (!step) throw new Error('the read has a step')
    await dateStep(db, step.id, row.takenAt)
    let storing: Promise<void> = Promise.resolve()
    for (let first = 0; first < each; first += BATCH) {
      const batch = await madeBatch(first + source * Math.floor(each / 20), Math.min(BATCH, each - first))
      await storing
      storing = storeBatch(db, batch, { jobId, sourceId: id, category: 'messages', pass: 'live', first }, step)
    }
    await storing
    // As the reader does after each step.
    await keepAccount(db, step.id, {
      stores: { '': 'whole' },
      read: each,
      rowsSkipped: 0,
      pagesSkipped: 0,
      content: {},
    })
    await restandCategory(db, jobId, 'messages', id)
  }
}

/** As the reader does, the next batch is made ready while the one before is stored. */
async function madeBatch(from: number, count: number): Promise<Prepared[]> {
  const batch: Prepared[] = []
  for (let i = 0; i < count; i++) {
    batch.push(prepare({ sighting: made(from + i), content: 'none' }))
    if (i % LISTEN_EVERY === 0) await setImmediate()
  }
  return batch
}

const WORDS = ['lantern', 'stage', 'curtain', 'violin', 'wagon', 'fox', 'moon', 'paper', 'thunder', 'barn']

const made = (n: number): Sighting => ({
  category: 'messages',
  condition: 'live',
  when: new Date(Date.UTC(2024, 0, 1) + n * 60_000).toISOString(),
  title: `Person ${n % 300}`,
  text: `${WORDS[n % 10]} ${WORDS[(n * 7) % 10]} number ${n}`,
  fields: {
    guid: `guid-${n}`,
    direction: n % 2 ? 'in' : 'out',
    conversation: `c${n % 300}`,
    sender: `+1202555${String(n % 300).padStart(4, '0')}`,
    senderName: `Person ${n % 300}`,
    attachments:
      n % 40 === 0 ? [{ name: 'a.jpg', mime: 'image/jpeg', bytes: 1, sha256: null, domain: 'd', path: null }] : [],
  },
  content: null,
  origin: { domain: 'd', path: 'p', table: 'message', rowid: n, place: 'live', page: 1, offset: n },
  missing: [],
  confidence: 1,
})

/** The same rows into tables of the same shape, with nothing worked out. */
async function loadPlainly(db: Db, total: number): Promise<void> {
  for (const table of ['findings', 'sightings']) await db.raw(`CREATE TABLE ${table}_plain LIKE ${table}`)
  for (const table of ['findings', 'sightings'])
    for (let after = 0, left = total; left > 0; left -= BATCH) {
      const rows = await db(table).where('id', '>', after).orderBy('id').limit(BATCH)
      if (rows.length === 0) break
      await db(`${table}_plain`).insert(rows.map(asStored))
      after = Number(rows.at(-1).id)
    }
}

/** Values of JSON columns come parsed, and are stored as text. */
const asStored = (row: object): object =>
  Object.fromEntries(
    Object.entries(row).map(([name, value]) => [
      name,
      typeof value === 'object' && value !== null && !(value instanceof Date) ? JSON.stringify(value) : value,
    ]),
  )

async function timeViews(db: Db, jobId: JobId): Promise<void> {
  const [row] = await db('findings').count({ count: '*' })
  const filter = allOf('messages')
  const views: Record<string, (round: number) => Promise<unknown>> = {
    'first page': () => pageOfFindings(db, jobId, filter, null),
    'page in the middle': (i) =>
      pageOfFindings(db, jobId, filter, {
        when: new Date(Date.UTC(2024, 0, 1) + i * 3e6).toISOString(),
        id: 1,
        score: 0,
        title: '',
        bytes: 0,
      }),
    'one standing': () => pageOfFindings(db, jobId, { ...filter, standings: ['earlier'] }, null),
    'by title': () => pageOfFindings(db, jobId, { ...filter, order: 'title' }, null),
    'the largest first': () => pageOfFindings(db, jobId, { ...filter, order: 'largest' }, null),
    'best match first': () => pageOfFindings(db, jobId, { ...filter, matching: true, order: 'match' }, null),
    'one conversation': (i) => pageOfFindings(db, jobId, { ...filter, conversation: `c${i}` }, null),
    'search of two words': (i) =>
      pageOfFindings(db, jobId, { ...filter, words: `${WORDS[i % 10]} ${WORDS[(i * 7) % 10]}` }, null),
    'search of one number': (i) => pageOfFindings(db, jobId, { ...filter, words: `${i * 131}` }, null),
    'from: a name': (i) => pageOfFindings(db, jobId, { ...filter, words: `from:"person ${i}"` }, null),
    'from: a beginning': (i) => pageOfFindings(db, jobId, { ...filter, words: `from:"person ${i % 10}"` }, null),
    'a word without another': (i) =>
      pageOfFindings(db, jobId, { ...filter, words: `${WORDS[i % 10]} -${WORDS[(i * 3 + 1) % 10]}` }, null),
    'in: a conversation': (i) => pageOfFindings(db, jobId, { ...filter, words: `in:"person ${i}"` }, null),
    'has: an attachment': () => pageOfFindings(db, jobId, { ...filter, words: 'has:attachment' }, null),
    'a year, what is lost': () => pageOfFindings(db, jobId, { ...filter, words: 'after:2024 standing:lost' }, null),
    'counts of from:': (i) => countFacets(db, jobId, { text: `from:"person ${i}"`, zone: 'UTC' }),
    suggestions: () => suggestionsFor(db, jobId, 'messages'),
    facets: () => countFacets(db, jobId),
  }
  for (const [name, ask] of Object.entries(views)) {
    const times: number[] = []
    for (let round = 0; round < ROUNDS; round++) times.push(1000 * (await timed(() => ask(round))))
    times.sort((a, b) => a - b)
    console.log(
      `${row?.count} findings, ${name}: median ${times[ROUNDS / 2]?.toFixed(0)} ms, 95th percentile ${times[Math.floor(ROUNDS * 0.95)]?.toFixed(0)} ms`,
    )
  }
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}
