import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CATEGORY_IDS } from '@lumbrin/core/categories/registry'
import { chromium, type Page } from '@playwright/test'
import { connect, type Db } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import type { JobId } from '../apps/workbench/src/domain/ids.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { insertMadeSource } from '../tests/setup/made-source.js'
import { fill } from './made-findings.js'
import { OURS, withServer } from './views.js'

const JOBS = 2000
const SOURCES = 40
const FINDINGS = 160_000
const OF_ONE_PERSON = 20_000
const ROUNDS = 20

/**
 * `npm run bench -- screens`: how long what a technician does takes until the page shows what came of it, with two thousand
 * jobs, forty sources, findings of every category and twenty thousand of one person. After `npm run build`.
 */
export async function benchScreens(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-screens-'))
  const database = await startDatabase(join(folder, 'database'), 'lumbrin_bench')
  process.env.LUMBRIN_DATABASE_URL = database.url
  process.env.LUMBRIN_DATA = folder
  const db = connect(database.url)
  try {
    await migrate(db)
    const jobId = await makeJobs(db)
    await makeFindings(db, jobId)
    await withServer(database.url, folder, async (base) => {
      const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' })
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, extraHTTPHeaders: OURS })
      const all: number[] = []
      for (const [name, address, act] of screens(jobId))
        all.push(...(await timeScreen(page, name, `${base}${address}`, act)))
      tell('all interactions', all)
      await browser.close()
    })
  } finally {
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

async function makeJobs(db: Db): Promise<JobId> {
  for (let i = 1; i < JOBS; i++)
    await openJob(db, briefSchema.parse({ owner: `Owner ${i % 700}`, device: `phone ${i}`, dueOn: '2026-12-24' }))
  return (await openJob(db, briefSchema.parse({ owner: 'Bench', people: 'Person 0', categories: ['messages'] }))).id
}

/** Messages mostly; every eighth finding is of another category, and one person has many. */
async function makeFindings(db: Db, jobId: JobId): Promise<void> {
  await fill(db, jobId, FINDINGS)
  for (let i = 1; i < SOURCES; i++)
    await insertMadeSource(db, jobId, `/made/${i}`, new Date(Date.UTC(2020 + (i % 7), i % 12, 1)))
  const others = CATEGORY_IDS.filter((id) => id !== 'messages')
  const names = others.map((id) => `'${id}'`).join(', ')
  await db.raw(`UPDATE findings SET category = ELT(1 + id % ${others.length}, ${names}) WHERE id % 8 = 3`)
  await db.raw(
    'UPDATE sightings s JOIN findings f ON f.id = s.finding_id SET s.category = f.category WHERE f.id % 8 = 3',
  )
  const [[first]] = await db.raw("SELECT MIN(id) AS id FROM names WHERE kind = 'person'")
  await db.raw('UPDATE findings SET person_id = ? WHERE id % ? = 0', [first.id, FINDINGS / OF_ONE_PERSON])
  for (const table of ['findings', 'sightings']) await db.raw(`ANALYZE TABLE ${table}`)
}

/** Does something for the nth time, and gives an expression that is true once the page shows what came of it. */
type Act = (page: Page, round: number) => Promise<{ act: string; done: string }>

const text = (selector: string) => `(document.querySelector(${JSON.stringify(selector)})?.textContent ?? '')`
const type = (selector: string, words: string) =>
  `{ const field = document.querySelector(${JSON.stringify(selector)}); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, ${JSON.stringify(words)}); field.dispatchEvent(new Event('input', { bubbles: true })) }`
const click = (selector: string, words = '') =>
  `;[...document.querySelectorAll(${JSON.stringify(selector)})].find((one) => one.textContent.startsWith(${JSON.stringify(words)})).click()`
const key = (name: string) =>
  `document.querySelector('[role=listbox]').dispatchEvent(new KeyboardEvent('keydown', { key: ${JSON.stringify(name)}, bubbles: true }))`

const screens = (job: JobId): [name: string, address: string, act: Act][] => [
  [
    '2,000 jobs: search',
    '/',
    async (_, i) => ({
      act: type('input[type=search]', `phone ${1500 + i}`),
      done: `${text('tbody')}.includes('phone ${1500 + i}')`,
    }),
  ],
  [
    '2,000 jobs: sort',
    '/',
    async () => ({
      act: `window.before = ${text('tbody')}; ${click('th button', 'Owner')}`,
      done: `${text('tbody')} !== window.before`,
    }),
  ],
  [
    '40 sources: open one',
    `/jobs/${job}/sources`,
    async (_, i) => ({
      act: `document.querySelectorAll('article h2 button')[${i}].click()`,
      done: `document.querySelectorAll('article')[${i}].querySelector('dl') !== null`,
    }),
  ],
  [
    '40 sources: pick a stratum',
    `/jobs/${job}/sources`,
    async (_, i) => ({
      act: `document.querySelectorAll('svg g[role=button]')[${i}].dispatchEvent(new MouseEvent('click', { bubbles: true }))`,
      done: `document.querySelectorAll('svg g[role=button]')[${i}].getAttribute('aria-pressed') === 'true'`,
    }),
  ],
  [
    'every category: another one',
    `/jobs/${job}/findings?category=calls&layout=list`,
    async (_, i) => ({
      act: `{ const tabs = document.querySelectorAll('nav[aria-label=Categories] ul:last-child button'); window.asked = tabs[${i} % tabs.length]; window.was = ${text('[role=listbox]')}; window.asked.click() }`,
      done: `window.asked.getAttribute('aria-current') === 'true' && ${text('[role=listbox]')}.length > 0`,
    }),
  ],
  [
    'every category: lost or all',
    `/jobs/${job}/findings?category=messages&layout=list`,
    async (_, i) => ({
      act: `window.was = document.querySelector('[role=option]').id; ${click('fieldset button', i % 2 ? 'All' : 'Lost')}`,
      done: `document.querySelector('[role=option]') && ([...document.querySelectorAll('fieldset button')].find((one) => one.textContent === '${i % 2 ? 'All' : 'Lost'}').getAttribute('aria-pressed') === 'true')`,
    }),
  ],
  [
    'a finding: look at the next',
    `/jobs/${job}/findings?category=messages&layout=list`,
    async () => ({
      act: `window.was = ${text('aside[aria-label=Inspector]')}; ${key('ArrowDown')}`,
      done: `${text('aside[aria-label=Inspector]')} !== window.was && ${text('aside[aria-label=Inspector]')}.includes('Match with')`,
    }),
  ],
  [
    'a finding: into the tray or out',
    `/jobs/${job}/findings?category=messages&layout=list`,
    async (page, i) => {
      if (i === 0) await page.evaluate(key('ArrowDown'))
      return {
        act: `window.was = document.querySelector('[role=option]').getAttribute('aria-selected'); ${key(' ')}`,
        done: `document.querySelector('[role=option]').getAttribute('aria-selected') !== window.was`,
      }
    },
  ],
  [
    'people: another one',
    `/jobs/${job}/people?name=Person+1`,
    async (_, i) => ({
      act: click('nav[aria-label=People] button', `Person ${i % 2 ? 0 : i + 2}`),
      done: `document.querySelector('[role=listbox]')?.getAttribute('aria-label')?.startsWith('Everything with Person ${i % 2 ? 0 : i + 2}')`,
    }),
  ],
  [
    '20,000 of one person: lost or all',
    `/jobs/${job}/people?name=Person+0`,
    async (_, i) => ({
      act: click('fieldset button', i % 2 ? 'All' : 'Lost'),
      done: `[...document.querySelectorAll('fieldset button')].find((one) => one.textContent === '${i % 2 ? 'All' : 'Lost'}').getAttribute('aria-pressed') === 'true' && document.querySelector('[role=option]') !== null`,
    }),
  ],
]

/** The times of an interaction, in milliseconds, until a frame shows what came of it and no request is under way. */
async function timeScreen(page: Page, name: string, address: string, act: Act): Promise<number[]> {
  await page.goto(address)
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null)
  await page.waitForLoadState('networkidle').catch(() => {})
  await page.waitForTimeout(500)
  const times: number[] = []
  for (let round = 0; round < ROUNDS; round++) {
    const step = await act(page, round)
    times.push(
      await page.evaluate(
        `new Promise((resolve, reject) => {
          const begun = performance.now()
          ${step.act}
          const look = () => {
            if (${step.done}) requestAnimationFrame(() => resolve(performance.now() - begun))
            else if (performance.now() - begun > 20000) reject(new Error('nothing came of it'))
            else requestAnimationFrame(look)
          }
          look()
        })`,
      ),
    )
    await page.waitForTimeout(150)
  }
  tell(name, times)
  return times
}

function tell(name: string, times: readonly number[]): void {
  const sorted = [...times].sort((a, b) => a - b)
  const at = (share: number) => `${sorted[Math.floor(sorted.length * share)]?.toFixed(0)} ms`
  console.log(`${name}: median ${at(0.5)}, 95th percentile ${at(0.95)}`)
}
