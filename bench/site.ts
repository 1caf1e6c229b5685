import { mkdtempSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { type PackageOptions, writePackage } from '@lumbrin/core/export/package'
import { readSiteProgram } from '@lumbrin/core/export/site/program'
import { WORDS } from './made-findings.js'

const PAGES = 'apps/workbench/dist/site'
const SEARCHES = ['lantern', 'quay rehearsal', 'tr', 'sorry', 'nothingholdsthis', 'a b']
const MEGA = 1e6

/**
 * A package of many items without pages and with them, and how soon these open and find in a browser:
 * `npm run bench -- site [ITEMS]`. After `npm run build`. The bench `package` measures memory.
 */
export async function benchSite([items = '500000']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-site-'))
  try {
    const plain = await timed(Number(items), join(folder, 'plain'), {})
    const program = await readSiteProgram(PAGES)
    const paged = await timed(Number(items), join(folder, 'paged'), { site: { program } })
    console.log(
      `${items} items: without pages ${plain.seconds.toFixed(1)} s, with pages ${paged.seconds.toFixed(1)} s; ratio ${(paged.seconds / plain.seconds).toFixed(2)}; ${Math.round(plain.bytes / MEGA)} MB and ${Math.round(paged.bytes / MEGA)} MB`,
    )
    await look(pathToFileURL(join(folder, 'paged/index.html')).href)
    console.log(`index.jsonl ${Math.round(statSync(join(folder, 'paged/data/index.jsonl')).size / MEGA)} MB`)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

async function timed(
  count: number,
  to: string,
  options: Partial<PackageOptions>,
): Promise<{ seconds: number; bytes: number }> {
  const started = performance.now()
  const subject = { jobNumber: null, owner: null, device: null, sought: null, timeZone: 'Europe/Lisbon' }
  const { bytes } = await writePackage(itemsOf(count), { to, subject, ...options })
  return { seconds: (performance.now() - started) / 1000, bytes }
}

async function* itemsOf(count: number): AsyncGenerator<HandoverItem> {
  for (let n = 0; n < count; n++)
    yield { sighting: made(n, count), standing: 'kept', open: async () => undefined, reveal: async () => undefined }
}

const TALKS = 400
const MINUTE_MS = 60_000
const FIRST = Date.UTC(2020, 0, 1)
const OTHERS = ['sorry', 'rehearsal', 'quay', 'truck', 'before', 'noon', 'trousers', 'trunk', 'travel', 'tent']

/** One of so many messages, conversation by conversation. */
function made(n: number, count: number): Sighting {
  const talk = Math.floor((n * TALKS) / count)
  const pick = (list: readonly string[], by: number) => list[(n * by) % list.length]
  const body = `${pick(WORDS, 7)} ${pick(OTHERS, 3)} ${pick(WORDS, 11)} ${pick(OTHERS, 13)} and so on until number ${n}`
  const name = `Person ${talk}`
  return {
    category: 'messages',
    condition: 'live',
    when: new Date(FIRST + n * MINUTE_MS).toISOString(),
    title: name,
    text: body,
    fields: {
      ...{
        kind: 'message',
        conversation: `talk-${talk}`,
        conversationTitle: null,
        service: null,
        body,
        attachments: [],
      },
      ...{ direction: n % 3 === 0 ? 'out' : 'in', sender: `+1202555${talk}`, senderName: name, recipients: [] },
      ...{ guid: `id-${n}`, replyTo: n % 50 === 49 ? `id-${n - 9}` : null, reactions: [], versions: [] },
    },
    content: null,
    origin: {
      ...{ domain: 'HomeDomain', path: 'Library/SMS/sms.db', table: 'message', rowid: n },
      ...{ place: 'live', page: 1, offset: 1 },
    },
    missing: [],
    confidence: 1,
  }
}

/** How long it takes until the first page stands there, and until what was searched for does. */
async function look(address: string): Promise<void> {
  // Loaded now: it is no part of what making the pages takes.
  const { chromium } = await import('@playwright/test')
  const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium' })
  try {
    const page = await browser.newPage()
    let started = performance.now()
    await page.goto(address)
    await page.getByRole('searchbox').waitFor()
    console.log(`opens in ${Math.round(performance.now() - started)} ms`)
    for (const words of SEARCHES) {
      await page.getByRole('searchbox').fill(words)
      started = performance.now()
      await page.keyboard.press('Enter')
      await page.getByRole('heading', { name: `“${words}”` }).waitFor()
      const found = await page.getByRole('main').getByRole('paragraph').first().innerText()
      console.log(`“${words}”: ${Math.round(performance.now() - started)} ms, ${found}`)
    }
    started = performance.now()
    await page.goto(`${address}#/kind/messages`)
    await page.getByRole('main').getByRole('link').first().click()
    await page.locator('main ol li p').first().waitFor()
    console.log(`a conversation: ${Math.round(performance.now() - started)} ms`)
  } finally {
    await browser.close()
  }
}
