import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { USUAL_CATEGORIES } from '@lumbrin/core/categories/registry'
import type { Page } from '@playwright/test'
import { type Browser, launch } from 'puppeteer-core'
import { BACKUPS, PHONE } from './kinds.js'
import { Round } from './rounds.js'
import { expect, expectAccessible, test } from './steps.js'

test.describe.configure({ mode: 'serial' })

// Passwords go out where somebody asks for them.
const CATEGORIES = USUAL_CATEGORIES.filter((id) => id !== 'credentials')
let address = ''
let count = 0

const at = (route: string) => `${address}${route}`

/** Goes to a page of the package, as a link would. */
async function goTo(page: Page, route: string): Promise<void> {
  await page.goto('about:blank')
  await page.goto(at(route))
}

test('a package is made of everything in a backup', async ({ request, baseURL }) => {
  const round = await Round.begin(request, baseURL ?? '', 'Odile Marchetti', CATEGORIES)
  const source = await round.add('sources', { folder: join(BACKUPS, PHONE) })
  expect(await round.read(source, CATEGORIES)).toMatch(/^(done|gaps)/)
  const folder = await round.handOver(await round.findings(), new Map())
  // As the report counts: without what could not be written.
  const index = readFileSync(join(folder, 'data/index.jsonl'), 'utf8').trim().split('\n')
  count = index.filter((line) => !JSON.parse(line).missed).length
  address = pathToFileURL(join(folder, 'index.html')).href
})

test('its pages open from the folder: start, pictures, one picture, back again', async ({ page }) => {
  await goTo(page, '')
  await expect(page.getByText(`${count.toLocaleString('en')} items, `)).toBeVisible()
  await expectAccessible(page)
  await page
    .getByRole('navigation')
    .getByRole('link', { name: /^Photos/ })
    .click()
  await expect(page.getByRole('heading', { name: 'Photos' })).toBeVisible()
  const tile = page.getByRole('link', { name: /^IMG_\d+\.JPG/ }).first()
  await expect(tile.locator('img')).toBeVisible()
  expect(await tile.locator('img').evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(0)
  await expectAccessible(page)
  await tile.focus()
  await page.keyboard.press('Enter')
  const picture = page.getByRole('main').locator('img').first()
  await expect(picture).toBeVisible()
  await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(100)
  await expect(page.getByRole('link', { name: /^data\// })).toBeVisible()
  await expectAccessible(page)
  await page.keyboard.press('ArrowRight')
  await page.goBack()
  await expect(page.getByRole('heading', { name: 'Photos' })).toBeVisible()
})

test('every kind of picture is shown, HEIC too', async ({ page }) => {
  await goTo(page, '#/search/heic')
  await page
    .getByRole('link', { name: /\.HEIC/ })
    .first()
    .click()
  const picture = page.getByRole('main').locator('img').first()
  await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(100)
})

test('conversations, people and the map lead to what they hold', async ({ page }) => {
  await goTo(page, '#/kind/messages')
  await expectAccessible(page)
  await page.getByRole('main').getByRole('link').filter({ hasText: 'had been lost' }).first().click()
  await page.getByRole('button', { name: 'Next that had been lost' }).click()
  await expect(page.getByText(/^(binned|rebuilt|partial|earlier)$/).first()).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('link', { name: /^People/ }).click()
  await page.getByRole('main').getByRole('link').first().click()
  await expect(page.getByText('+1202555').first()).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('link', { name: /^Map/ }).click()
  await page
    .getByRole('button', { name: /items? here$/ })
    .first()
    .click()
  await expect(page.getByRole('region', { name: 'Items at this place' }).getByRole('link').first()).toBeVisible()
  await expectAccessible(page)
})

test('a search over everything finds, narrows, and says where nothing is', async ({ page }) => {
  await goTo(page, '')
  await page.getByRole('searchbox').fill('sorry')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: '“sorry”' })).toBeVisible()
  await expect(page.getByRole('main').getByRole('link').filter({ hasText: 'Messages' }).first()).toContainText(/sorry/i)
  await expectAccessible(page)
  await page.getByRole('searchbox').fill('zzzz')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Nothing here holds all of these words')).toBeVisible()
})

test('every kind has a page, and all of them fit a phone', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 })
  await goTo(page, '')
  const kinds = await page.getByRole('navigation').getByRole('link').all()
  expect(kinds.length).toBeGreaterThan(15)
  for (const kind of kinds) {
    await kind.click()
    await expect(page.getByRole('main').getByRole('heading', { level: 1 })).toBeVisible()
    await expect(page.getByRole('alert')).toHaveCount(0)
    const wide = await page.evaluate(() => document.documentElement.scrollWidth > window.innerWidth)
    expect(wide, await kind.innerText()).toBe(false)
  }
})

test('without scripts plain pages are there, and lead everywhere', async ({ browser }) => {
  const context = await browser.newContext({ javaScriptEnabled: false })
  const page = await context.newPage()
  await page.goto(at(''))
  const places = await page
    .getByRole('listitem')
    .getByRole('link')
    .evaluateAll((links: HTMLAnchorElement[]) => links.map((link) => link.href))
  expect(places.length).toBeGreaterThan(10)
  for (const place of places) {
    await page.goto(place)
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  }
  await page.goto(places.find((place) => place.includes('photos')) ?? '')
  await page.locator('figure a').first().click()
  expect(page.url()).toMatch(/\.(JPG|PNG|webp)$/i)
  await context.close()
})

test('Firefox opens them from the folder too', async () => {
  let firefox: Browser | undefined
  try {
    firefox = await launch({ browser: 'firefox', executablePath: process.env.FIREFOX ?? '/usr/bin/firefox-esr' })
    const page = await firefox.newPage()
    const complaints: string[] = []
    page.on('pageerror', (error) => complaints.push(String(error)))
    await page.goto(at(''))
    await page.waitForSelector('nav a')
    await page.goto(at('#/kind/photos'))
    await page.waitForFunction(() => [...document.images].some((image) => image.naturalWidth > 0))
    await page.goto(at('#/search/sorry'))
    await page.waitForFunction(() => /sorry/i.test(document.querySelector('main li')?.textContent ?? ''))
    await page.goto(at('#/kind/messages'))
    await page.waitForSelector('main li a')
    await page.click('main li a')
    await page.waitForSelector('main ol li p')
    expect(complaints).toEqual([])
  } finally {
    await firefox?.close()
  }
})
