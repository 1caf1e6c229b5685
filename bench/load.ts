import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { get } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { buildDemo } from '@lumbrin/standins/demo/build'
import { connect, type Db } from '../apps/workbench/src/database/connection.js'
import { listHandovers } from '../apps/workbench/src/database/handovers.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { countFacets } from '../apps/workbench/src/database/queries.js'
import { findRead } from '../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import type { FindingId, JobId, ReadId } from '../apps/workbench/src/domain/ids.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { fill } from './made-findings.js'
import { OURS, SECRET, searches, withServer } from './views.js'

const CLIENTS = 20
const STREAMS = 500
const SECONDS = 30
/** Somebody who works looks at what came before asking for the next. */
const PAUSE_MS = 250

/**
 * `npm run bench -- load [FINDINGS]`: twenty busy clients while two reads and a handover go on, then the same with hundreds
 * of pages open that only listen. After `npm run build`.
 */
export async function benchLoad([total = '100000']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-load-'))
  const database = await startDatabase(join(folder, 'database'), 'lumbrin_bench')
  const db = connect(database.url)
  process.env.LUMBRIN_DATA = folder
  process.env.LUMBRIN_DATABASE_URL = database.url
  process.env.LUMBRIN_ROOTS = join(folder, 'handovers')
  try {
    mkdirSync(join(folder, 'handovers'))
    await migrate(db)
    await buildDemo(join(folder, 'sources'), {
      messages: 40_000,
      lostMessages: 4000,
      pictures: 200,
      items: 400,
      rounds: 1000,
    })
    const job = await openJob(db, briefSchema.parse({ owner: 'Bench' }))
    await fill(db, job.id, Number(total))
    await withServer(database.url, folder, async (base) => {
      const calm = await round(db, base, job.id, folder, 0)
      const open = await round(db, base, job.id, folder, STREAMS)
      console.log(`with ${STREAMS} pages that listen: ${(open / calm).toFixed(2)} of the 95th percentile without`)
    })
  } finally {
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** One round of load; gives the 95th percentile of all answers, in milliseconds. */
async function round(db: Db, base: string, jobId: JobId, folder: string, streams: number): Promise<number> {
  const stop = new AbortController()
  const listeners = Array.from({ length: streams }, () => listen(`${base}/api/jobs/${jobId}/events`, stop.signal))
  await Promise.all(listeners)
  const reader = spawn(process.execPath, ['apps/workbench/dist/reader.mjs'], {
    env: { ...process.env, LUMBRIN_READER_SECRET: SECRET },
    stdio: 'ignore',
  })
  const working = await beginWork(base, folder)
  const until = Date.now() + 1000 * SECONDS
  const times: number[] = []
  const wrong: string[] = []
  await Promise.all(Array.from({ length: CLIENTS }, (_, n) => client(db, base, jobId, n, until, times, wrong)))
  times.sort((a, b) => a - b)
  const at = (share: number) => times[Math.floor(times.length * share)] ?? 0
  console.log(
    `${CLIENTS} clients, ${streams} pages that listen: ${times.length} answers, median ${at(0.5).toFixed(0)} ms, 95th percentile ${at(0.95).toFixed(0)} ms, longest ${at(0.9999).toFixed(0)} ms, ${wrong.length} errors`,
  )
  for (const words of wrong.slice(0, 5)) console.log(`  ${words}`)
  console.log(`  meanwhile: ${await workDone(db, working)}`)
  await expectExact(db, jobId)
  stop.abort()
  reader.kill()
  await new Promise((go) => reader.once('exit', go))
  return at(0.95)
}

const send = async (address: string, body: unknown) => {
  const answer = await fetch(address, {
    method: 'POST',
    headers: { ...OURS, 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })
  if (!answer.ok) throw new Error(`${answer.status}: ${await answer.text()}`)
  return answer.json()
}

/** Two reads in jobs of their own, and a handover of what the first one finds. */
async function beginWork(base: string, folder: string) {
  const reads: ReadId[] = []
  const found = (
    await (
      await fetch(`${base}/api/backups?folder=${encodeURIComponent(join(folder, 'sources'))}`, { headers: OURS })
    ).text()
  )
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
    .flatMap((step) => (step.backup && !step.backup.encrypted ? [step.backup.path as string] : []))
  let job = 0 as JobId
  for (const path of found.slice(0, 2)) {
    job = (await send(`${base}/api/jobs`, { owner: 'Load' })).id
    const { id } = await send(`${base}/api/jobs/${job}/sources`, { folder: path })
    reads.push((await send(`${base}/api/sources/${id}/reads`, { categories: [], passes: [] })).id)
  }
  return { reads, job, base, folder }
}

async function workDone(db: Db, { reads, job, base, folder }: Awaited<ReturnType<typeof beginWork>>): Promise<string> {
  for (const id of reads)
    while (!['done', 'gaps', 'failed'].includes((await findRead(db, id))?.state ?? '')) await sleep(200)
  await send(`${base}/api/jobs/${job}/tray`, { addMatching: 'category=photos' })
  await send(`${base}/api/jobs/${job}/handovers`, {
    kind: 'folder',
    folder: join(folder, 'handovers', `job-${job}`),
  }).catch((thrown: Error) => console.log(`  ${thrown.message}`))
  let handover = (await listHandovers(db, job))[0]
  while (handover && !['done', 'failed'].includes(handover.state)) {
    await sleep(200)
    handover = (await listHandovers(db, job))[0]
  }
  const states = await Promise.all(reads.map(async (id) => (await findRead(db, id))?.state))
  return `reads ${states.join(' and ')}, handover ${handover?.state ?? 'not begun'}`
}

/** Asks what a technician's page asks, and puts findings of its own into the tray and out of it. */
async function client(
  db: Db,
  base: string,
  jobId: JobId,
  n: number,
  until: number,
  times: number[],
  wrong: string[],
): Promise<void> {
  const job = `${base}/api/jobs/${jobId}`
  const words = Object.values(searches)
  const mine: FindingId[] = await db('findings')
    .where({ job_id: jobId })
    .offset(n * 50)
    .limit(50)
    .orderBy('id')
    .pluck('id')
  for (let i = 0; Date.now() < until; i++) {
    const ask: Record<number, () => Promise<unknown>> = {
      0: () => answered(`${job}/findings?category=messages`),
      1: () => answered(`${job}/facets`),
      2: () => answered(`${job}/findings?category=messages&words=${encodeURIComponent(words[i % 3]?.(i) ?? '')}`),
      3: () => answered(`${job}/timeline?category=messages`),
      4: () => send(`${job}/tray`, { add: mine }),
      5: () => send(`${job}/tray`, { remove: mine.slice(0, 25) }),
      6: () => answered(`${base}/api/findings/${mine[i % 50]}`),
    }
    const began = performance.now()
    try {
      await ask[i % 7]?.()
    } catch (thrown) {
      wrong.push((thrown as Error).message.slice(0, 200))
    }
    times.push(performance.now() - began)
    await sleep(PAUSE_MS)
  }
  // What is in the tray in the end is known.
  await send(`${job}/tray`, { add: mine })
}

async function answered(address: string): Promise<void> {
  const answer = await fetch(address, { headers: OURS })
  const text = await answer.text()
  if (!answer.ok) throw new Error(`${answer.status} ${text.slice(0, 100)}`)
}

/** The tray holds what all clients put into it, and the counts are those of the rows. */
async function expectExact(db: Db, jobId: JobId): Promise<void> {
  const chosen = await db('tray_blocks')
    .where({ job_id: jobId })
    .sum({ n: db.raw('BIT_COUNT(bits)') })
    .first()
  if (Number(chosen?.n) !== CLIENTS * 50)
    throw new Error(`${chosen?.n} findings are in the tray, and ${CLIENTS * 50} should be`)
  const counted = Object.values((await countFacets(db, jobId)).messages ?? {}).reduce((sum, one) => sum + one, 0)
  const rows = await db('findings').where({ job_id: jobId, category: 'messages' }).count({ n: '*' }).first()
  if (counted !== Number(rows?.n)) throw new Error(`${counted} messages are counted, and there are ${rows?.n}`)
}

/** Opens an event stream, and waits for its first event. */
function listen(address: string, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    get(address, { headers: OURS, agent: false, signal }, (response) => {
      response.once('data', () => resolve())
      response.on('error', () => {})
      response.resume()
    }).on('error', (thrown) => (signal.aborted ? undefined : reject(thrown)))
  })
}
