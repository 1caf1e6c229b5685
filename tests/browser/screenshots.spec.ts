import { join } from 'node:path'
import { expect, firstJobRead, open, settled, test } from './steps.js'

const shots = join(import.meta.dirname, '../../docs/screenshots')

/** Takes the pictures of the README anew: `npm run screenshots`. */
test('pictures of the main views', async ({ page }) => {
  const shot = async (name: string) => {
    await page.waitForLoadState('networkidle').catch(() => {})
    await page.screenshot({ path: join(shots, `${name}.png`) })
  }
  await open(page, '/')
  await page.getByRole('link', { name: '2026-0001' }).click()
  await settled(page)
  await shot('brief')
  const job = page.url().replace(/\/brief$/, '')
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText(/^[1-9][\d,]* reading…|[1-9]\d* done/).first()).toBeVisible()
  await shot('sources-reading')
  await firstJobRead(page)
  await open(page, `${job}/findings?category=photos`)
  await page.getByRole('option').nth(3).click()
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(1500)
  await shot('findings-grid')
  await open(page, `${job}/findings?category=messages&conversation=${encodeURIComponent('iMessage;-;+12025550100')}`)
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await page.getByRole('option').nth(2).click()
  await page.waitForTimeout(500)
  await shot('findings-conversation')
  await open(page, `${job}/tray`)
  await shot('tray')
  await open(page, `${job}/handover`)
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.locator('[data-handover-state=done]')).toBeVisible()
  await shot('handover')
  await open(page, '/')
  await shot('jobs')
})
