import AxeBuilder from '@axe-core/playwright'
import { test as base, expect, type Page } from '@playwright/test'

/** Tests whose pages must not complain: neither scripts nor the content policy. */
export const test = base.extend({
  page: async ({ page }, use) => {
    const complaints: string[] = []
    page.on('pageerror', (error) => complaints.push(error.message))
    page.on(
      'console',
      (message) =>
        message.type() === 'error' &&
        !message.text().includes('status of 4') &&
        complaints.push(message.text().slice(0, 300)),
    )
    await use(page)
    expect(complaints).toEqual([])
  },
})

export { expect }

/** Waits until the page's islands answer. */
export async function settled(page: Page): Promise<void> {
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null)
}

export async function open(page: Page, path: string): Promise<void> {
  await page.goto(path)
  await settled(page)
}

/** Checks a view with axe; in dark only the colours, since nothing else differs. */
export async function expectAccessible(page: Page): Promise<void> {
  // Pages have no frames of other origins: axe runs in the page, and needs no second one to put its parts together.
  // Styles are looked at as they apply: their files need not be asked for once more, which no policy here allows.
  const axeIn = () => new AxeBuilder({ page }).setLegacyMode().options({ preload: false })
  const light = axeIn().withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'])
  const dark = axeIn().withRules(['color-contrast'])
  for (const [theme, axe] of [
    ['light', light],
    ['dark', dark],
  ] as const) {
    await page.evaluate((name) => {
      document.documentElement.dataset.theme = name
    }, theme)
    const { violations } = await axe.analyze()
    const words = violations.map(
      ({ id, nodes }) => `${theme}: ${id}: ${nodes.map((node) => node.html.slice(0, 150)).join(' | ')}`,
    )
    expect(words).toEqual([])
  }
}

/** Starts a read of each source on the page, as its form proposes it. */
export async function startReads(page: Page): Promise<void> {
  for (const source of await page.getByRole('article').all()) {
    await source.getByRole('button', { name: 'Start reading' }).click()
    await expect(source.locator('[data-read-state]')).toHaveCount(1)
  }
}

/** The demo's first job, read to the end. */
export async function firstJobRead(page: Page): Promise<string> {
  await open(page, '/')
  await page.getByLabel('Search the jobs').fill('2026-0001-')
  await page.getByRole('link', { name: /^2026-0001-/ }).click()
  await page.waitForURL(/jobs\/\d+\/answer/)
  const job = page.url().replace(/\/answer$/, '')
  await open(page, `${job}/sources`)
  const begun = (await page.locator('[data-read-state]').count()) > 0
  if (!begun) await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  return job
}
