import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { chromium, type Page } from '@playwright/test'
import { connect } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { fill, LONG_TALK, WORDS } from './made-findings.js'

// The bench asks as one of the application's own programs does.
export const SECRET = 'bench'.repeat(8)
export const OURS = { 'x-lumbrin-secret': SECRET }
const ROUNDS = 60

/**
 * What the Findings view asks of the built server over HTTP with very many findings in a job, choosing all of them, and
 * the page itself in Chromium: `npm run bench -- views [FINDINGS]`, after `npm run build`.
 */
export async function benchViews(words: string[]): Promise<void> {
  const total = Number(words[0] ?? 500_000)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-views-'))
  const database = await startDatabase(folder, 'lumbrin_bench')
  // The application's settings, where the bench itself calls into it.
  process.env.LUMBRIN_DATABASE_URL = database.url
  process.env.LUMBRIN_DATA = folder
  const db = connect(database.url)
  try {
    await migrate(db)
    const job = await openJob(db, briefSchema.parse({ owner: 'Bench' }))
    await fill(db, job.id, total)
    await withServer(database.url, folder, async (base) => {
      await timeEndpoints(`${base}/api/jobs/${job.id}`, total)
      await timeChoosing(`${base}/api/jobs/${job.id}/tray`, total)
      await timePage('list', `${base}/jobs/${job.id}/findings?category=messages&layout=list`)
      await timePage(
        `conversation of ${LONG_TALK}`,
        `${base}/jobs/${job.id}/findings?category=messages&layout=conversations&conversation=long`,
      )
    })
  } finally {
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** The built server over a database, while `use` asks it. */
export async function withServer(url: string, data: string, use: (base: string) => Promise<void>): Promise<void> {
  const port = await freePort()
  const server = spawn(process.execPath, ['apps/workbench/dist/main.mjs'], {
    env: {
      ...process.env,
      LUMBRIN_READER_SECRET: SECRET,
      LUMBRIN_DATABASE_URL: url,
      LUMBRIN_PORT: String(port),
      LUMBRIN_DATA: data,
    },
    stdio: 'ignore',
  })
  try {
    await answered(`http://127.0.0.1:${port}`)
    await use(`http://127.0.0.1:${port}`)
  } finally {
    server.kill()
  }
}

/** What is typed into the search, a new one in each round. */
export const searches: Record<string, (round: number) => string> = {
  'two words': (i) => `${WORDS[i % 10]} ${WORDS[(i * 7) % 10]}`,
  'one number': (i) => `${1000 + i * 131}`,
  'a phrase': (i) => `"${WORDS[i % 10]} ${WORDS[Math.floor((70 + (i % 10)) / 7) % 10]}"`,
  'a phrase that nothing has': (i) => `"${WORDS[i % 10]} elsewhere"`,
  'a phrase that nothing has, of frequent words': () => `"${WORDS[1]} ${WORDS[2]}"`,
  'a word without another': (i) => `${WORDS[i % 10]} -${WORDS[(i * 3 + 1) % 10]}`,
  'nothing but a word left out': (i) => `-${WORDS[i % 10]}`,
  'from: a name': (i) => `from:"person ${100 + i}"`,
  'from: a beginning': (i) => `from:"person ${i % 10}"`,
  'from: a name with a word': (i) => `from:"person ${100 + i}" ${WORDS[i % 10]}`,
  'in: a conversation': (i) => `in:"person ${100 + i}"`,
  'has: an attachment': (i) => `has:attachment before:2024-${String((i % 12) + 1).padStart(2, '0')}`,
  'has: what nothing has': () => 'has:place',
  'a month': (i) => `after:2024-${String((i % 12) + 1).padStart(2, '0')} before:2025`,
  'what is lost, by date': () => 'after:2024 standing:lost',
  'what is lost, with a word': (i) => `standing:lost ${WORDS[i % 10]}`,
  'a rare standing': () => 'standing:binned',
  'a rare standing with a word': (i) => `standing:binned ${WORDS[i % 10]}`,
  'a word that nothing has': (i) => `nowhere${i}`,
}

async function timeEndpoints(job: string, total: number): Promise<void> {
  const page = (more: string) => `${job}/findings?category=messages&${more}`
  const view = (name: string, more = '') => `${job}/${name}?category=messages${more}`
  const middle = (i: number) => new Date(Date.UTC(2024, 0, 1) + i * 400_000_000).toISOString()
  const views: Record<string, (round: number) => string> = {
    'first page': () => page(''),
    'page in the middle': (i) => page(`afterId=1&afterWhen=${middle(i)}`),
    'one standing': () => page('standings=rebuilt'),
    'by title': () => page('order=title'),
    'the largest first': () => page('order=largest'),
    'a month': (i) => page(`fromDay=${middle(i % 28).slice(0, 10)}&toDay=${middle((i % 28) + 6).slice(0, 10)}`),
    'one conversation': (i) => page(`conversation=c${i}`),
    'all conversations': () => view('conversations'),
    ...Object.fromEntries(
      Object.entries(searches).map(([name, words]) => [
        `search of ${name}`,
        (i: number) => page(`words=${encodeURIComponent(words(i))}`),
      ]),
    ),
    suggestions: () => view('suggestions'),
    facets: () => view('facets'),
    timeline: () => view('timeline'),
    'days of a month': (i) => view('days', `&month=${middle(i).slice(0, 7)}`),
  }
  for (const [name, address] of Object.entries(views)) {
    const times: number[] = []
    for (let round = 0; round < ROUNDS; round++)
      times.push(1000 * (await timed(async () => (await fetch(address(round), { headers: OURS })).text())))
    times.sort((a, b) => a - b)
    const figure = (share: number) => `${times[Math.floor(ROUNDS * share)]?.toFixed(0)} ms`
    console.log(`${total} findings, ${name}: median ${figure(0.5)}, 95th percentile ${figure(0.95)}`)
  }
}

async function timeChoosing(tray: string, total: number): Promise<void> {
  const send = (body: object) =>
    fetch(tray, {
      method: 'POST',
      headers: { ...OURS, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
  let count = 0
  const seconds = await timed(async () => {
    count = (await (await send({ addMatching: 'category=messages' })).json()).count
  })
  if (count !== total) throw new Error(`${count} of ${total} were chosen`)
  console.log(`${total} findings chosen in ${seconds.toFixed(2)} s`)
}

/** First paint, first findings, and frames while scrolling, of a page of findings in Chromium. */
export async function timePage(name: string, address: string): Promise<void> {
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, extraHTTPHeaders: OURS })
    await page.goto(address)
    await page.getByRole('listbox').getByRole('option').first().waitFor()
    const paint = await page.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0)
    const ready = await page.evaluate(() => performance.now())
    console.log(`${name}: first paint after ${paint.toFixed(0)} ms, first findings after ${ready.toFixed(0)} ms`)
    const frames = await scrolled(page)
    console.log(
      `${name}, scrolling: median frame ${frames[Math.floor(frames.length / 2)]?.toFixed(1)} ms, 95th percentile ${frames[Math.floor(frames.length * 0.95)]?.toFixed(1)} ms`,
    )
    const tiles = await page.getByRole('listbox').locator('img').count()
    if (tiles > 0) {
      const soon = await arrived(page)
      const last = await timed(async () => {
        for (let tries = 0; (await arrived(page)) < tiles && tries < 200; tries++) await sleep(50)
      })
      console.log(
        `${name}: when scrolling ends ${soon} of ${tiles} tiles have their picture, ${await arrived(page)} after ${last.toFixed(1)} s`,
      )
    }
  } finally {
    await browser.close()
  }
}

const arrived = (page: Page): Promise<number> =>
  page
    .getByRole('listbox')
    .locator('img')
    .evaluateAll((images: HTMLImageElement[]) => images.filter((image) => image.naturalWidth > 0).length)

/** Times between frames while the list is scrolled for some seconds, in milliseconds, ascending. */
async function scrolled(page: Page): Promise<number[]> {
  const frames = await page.evaluate(async () => {
    const box = document.querySelector('[role=listbox]')?.parentElement
    const times: number[] = []
    let last = performance.now()
    for (let frame = 0; frame < 240; frame++) {
      box?.scrollBy(0, 40)
      await new Promise(requestAnimationFrame)
      const now = performance.now()
      times.push(now - last)
      last = now
    }
    return times
  })
  return frames.sort((a, b) => a - b)
}

async function answered(base: string): Promise<void> {
  for (let tries = 0; tries < 100; tries++) {
    if (await fetch(base).catch(() => undefined)) return
    await sleep(100)
  }
  throw new Error('the server did not start')
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number }
      server.close(() => resolve(port))
    })
  })
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}
