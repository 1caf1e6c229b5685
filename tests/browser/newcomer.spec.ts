import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { expect, settled, test } from './steps.js'

const handovers = join(data, 'handovers')

/** Counts what a newcomer does: clicks and keys that the page is sent by hand, and the pages that are seen. */
class Steps {
  clicks = 0
  keys = 0
  readonly pages = new Set<string>()

  constructor(readonly page: Page) {}

  async at(): Promise<void> {
    await settled(this.page)
    // Nobody presses a key in the moment in which a page comes.
    await this.page.waitForTimeout(500)
    this.pages.add(new URL(this.page.url()).pathname)
  }

  async click(role: 'link' | 'button', name: RegExp): Promise<void> {
    await this.page.getByRole(role, { name }).first().click()
    this.clicks++
  }

  /** One key, or words that are typed, of which the owner's own passwords do not count. */
  async press(...keys: string[]): Promise<void> {
    for (const key of keys) await this.page.keyboard.press(key)
    this.keys += keys.length
  }
}

/** Opens a job for the demo's lost conversation, as somebody else than the one who walks. */
async function jobFor(page: Page, owner: string, dueOn = '2026-01-01'): Promise<string> {
  const answer = await page.request.post('/api/jobs', {
    data: {
      owner,
      categories: ['messages'],
      people: 'Bram Okafor',
      words: 'stage',
      lostFrom: '2026-10-05',
      lostTo: '2026-11-14',
      dueOn,
      deviceState: 'put-aside',
    },
  })
  const { id, number } = await answer.json()
  await page.goto('/')
  await settled(page)
  await expect(page.getByRole('link', { name: number })).toBeVisible()
  return `/jobs/${id}`
}

/** The package of a job holds the lost conversation, and its checksums are those of its files. */
async function expectConversation(page: Page): Promise<void> {
  const done = page.locator('[data-handover-state=done]')
  await expect(done.first()).toBeVisible()
  const name = /handover-[\w-]+/.exec(await done.first().innerText())?.[0] ?? ''
  const folder = join(handovers, name)
  execFileSync('sha256sum', ['--strict', '-c', 'manifest-sha256.txt'], { cwd: folder })
  const pages = readdirSync(join(folder, 'data/messages')).filter((file) => file.endsWith('.html'))
  const text = pages.map((file) => readFileSync(join(folder, 'data/messages', file), 'utf8')).join()
  // Two hundred messages about the folding stage, of the days from the 6th to the 12th of October.
  expect(text).toContain('<h2>2026-10-12</h2>')
  expect(text.split('Bram Okafor').length).toBeGreaterThan(100)
}

/** What stands on the button once all is read; while a read goes on it says "found so far". */
const PUT_ALL = /^Put (all [\d,]+ matches|the match) in the tray/

/** From an answer with matches to the package. */
async function handOver(steps: Steps): Promise<void> {
  await steps.click('button', PUT_ALL)
  await steps.click('link', /^Hand over [\d,]+ items?/)
  await steps.page.waitForURL(/handover$/)
  await steps.at()
  await steps.click('button', /^Write the package/)
  await expectConversation(steps.page)
}

test('from the address to the lost conversation, from a backup', async ({ page }) => {
  const steps = new Steps(page)
  const job = await jobFor(page, 'Newcomer with a backup')
  await steps.at()
  await page.locator(`a[href="${job}/answer"]`).first().click()
  steps.clicks++
  await page.waitForURL(/answer$/)
  await steps.at()
  await steps.click('button', /^Add and read it/)
  await handOver(steps)
  expect(steps.clicks).toBeLessThanOrEqual(6)
  expect(steps.pages.size).toBeLessThanOrEqual(3)
})

test('the same from a phone on the cable', async ({ page }) => {
  const steps = new Steps(page)
  const job = await jobFor(page, 'Newcomer with a phone')
  await steps.at()
  await page.locator(`a[href="${job}/answer"]`).first().click()
  steps.clicks++
  await page.waitForURL(/answer$/)
  await steps.at()
  const step = page.locator('[data-rule=known-device]').filter({ hasText: 'Odile’s phone' })
  await step.getByRole('button', { name: 'Add and read it' }).click()
  steps.clicks++
  await handOver(steps)
  expect(steps.clicks).toBeLessThanOrEqual(6)
  expect(steps.pages.size).toBeLessThanOrEqual(3)
})

test('the same by keyboard', async ({ page }) => {
  const steps = new Steps(page)
  // It is overdue longer than all others, so that it stands first.
  const job = await jobFor(page, 'Newcomer at the keyboard', '2025-01-01')
  await steps.at()
  await steps.press('ArrowDown', 'Enter')
  await page.waitForURL(`**${job}/answer`)
  await steps.at()
  await steps.press('n')
  await expect(page.getByRole('button', { name: PUT_ALL })).toBeVisible()
  await steps.press('m')
  await expect(page.getByRole('link', { name: /^Hand over/ })).toBeVisible()
  await steps.press('h')
  await page.waitForURL(/handover$/)
  await steps.at()
  await steps.press('w')
  await expectConversation(page)
  expect(steps.keys).toBeLessThanOrEqual(25)
  expect(steps.pages.size).toBeLessThanOrEqual(3)
})

test('the same from the cloud', async ({ page }) => {
  const steps = new Steps(page)
  const job = await jobFor(page, 'Newcomer with an account')
  await steps.at()
  await page.locator(`a[href="${job}/answer"]`).first().click()
  steps.clicks++
  await page.waitForURL(/answer$/)
  await steps.at()
  await steps.click('button', /^Sign in/)
  const cloud = page.getByRole('region', { name: 'Cloud account' })
  await cloud.getByLabel('Account', { exact: true }).fill('odile@theatre.example')
  await cloud.getByLabel('Password of the account').fill('curtain call')
  await page.keyboard.press('Enter')
  await cloud.getByLabel('Code', { exact: true }).fill('271828')
  await page.keyboard.press('Enter')
  const step = page.locator('[data-rule=known-snapshot]').filter({ hasText: '2026-11-24' })
  await step.getByRole('button', { name: 'Add and read it' }).click()
  steps.clicks++
  await handOver(steps)
  expect(steps.clicks).toBeLessThanOrEqual(6)
  expect(steps.pages.size).toBeLessThanOrEqual(3)
})
