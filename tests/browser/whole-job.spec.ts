import { execFileSync } from 'node:child_process'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, firstJobRead, open, settled, test } from './steps.js'

const handovers = join(data, 'handovers')

test('the whole job, by mouse', async ({ page }) => {
  const job = await firstJobRead(page)
  await page.getByRole('link', { name: 'Look at the findings' }).click()
  await settled(page)
  // It opens on what the brief asks for, lost first.
  await expect(page.getByRole('button', { name: 'Lost', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByRole('button', { name: /^Messages/ })).toHaveAttribute('aria-current', 'true')
  await page.getByRole('button', { name: /^Pictures and sound/ }).click()
  await page.getByRole('button', { name: /^Photos/ }).click()

  await page.getByRole('button', { name: /^binned/ }).click()
  const binned = page
    .getByRole('listbox')
    .getByRole('option', { name: /binned/ })
    .first()
  await binned.click()
  const inspector = page.getByRole('complementary', { name: 'Inspector' })
  // The days of a bin are counted to the day on which this runs.
  await expect(inspector).toContainText(/\d+ days? left|expired since \d{4}-\d{2}-\d{2}/)
  await expect(inspector).toContainText('Photos.sqlite')
  await inspector.getByRole('button', { name: 'Put in the tray' }).click()
  await expect(binned).toHaveAttribute('aria-selected', 'true')
  await binned.dblclick()
  const picture = page.getByRole('dialog').getByRole('img', { name: /IMG_/ })
  await expect(picture).toHaveJSProperty('complete', true)
  expect(await picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(1200)
  await page.getByRole('button', { name: 'Close' }).click()

  await page.getByRole('button', { name: /^People and words/ }).click()
  await page.getByRole('button', { name: /^Messages/ }).click()
  await page.getByRole('button', { name: 'All', exact: true }).click()
  await page
    .getByRole('button', { name: /conversation lost/ })
    .first()
    .click()
  await page.getByRole('listbox').getByRole('option').first().click()
  await expect(inspector).toContainText(/a free page of the database|space inside a page/)
  await page.getByRole('button', { name: 'Put the conversation in the tray' }).click()
  await expect(page.getByRole('button', { name: 'Take the conversation out of the tray' })).toBeVisible()

  await page.getByRole('link', { name: /^Tray/ }).click()
  await settled(page)
  await expect(page.getByRole('region', { name: 'Photos' })).toContainText('binned')
  await expect(page.getByRole('region', { name: 'Messages' })).toContainText('rebuilt')
  await expectAccessible(page)
  await page.getByRole('link', { name: 'Hand over' }).click()
  await settled(page)
  const folder = join(handovers, 'by-mouse')
  await page.getByLabel('Folder for the package').fill(folder)
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.locator('[data-handover-state=done]').first()).toContainText(folder)

  const check = execFileSync('sha256sum', ['-c', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], {
    cwd: folder,
    encoding: 'utf8',
  })
  expect(check).toContain('data/photos/')
  expect(readdirSync(join(folder, 'data/messages'))).toContain('Conversation unknown.html')

  await page.getByRole('button', { name: 'Make a zip to download' }).click()
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download the zip' }).click()
  execFileSync('unzip', ['-tqq', await (await download).path()])

  await open(page, `${job}/log`)
  for (const action of ['Job opened', 'Source added', 'Read done', 'Handover done'])
    await expect(page.getByRole('cell', { name: action }).first()).toBeVisible()
})

test('the whole job, by keyboard', async ({ page }) => {
  const press = async (...keys: string[]) => {
    for (const key of keys) await page.keyboard.press(key)
  }
  /** Moves the focus on with Tab until it is on what is named. */
  const tabTo = async (name: string) => {
    for (let i = 0; i < 60; i++) {
      const here = await page.evaluate(() => {
        const element = document.activeElement as HTMLElement & { labels?: NodeListOf<HTMLElement> }
        return element?.getAttribute('aria-label') ?? element?.labels?.[0]?.innerText ?? element?.innerText ?? ''
      })
      if (here.trim().startsWith(name)) return
      await press('Tab')
    }
    throw new Error(`the keyboard does not reach "${name}"`)
  }
  await open(page, '/')
  await tabTo('New job')
  await press('Enter')
  await page.waitForURL(/jobs\/new/)
  await settled(page)
  await tabTo('Owner')
  await page.keyboard.type('Mirela Santos')
  await tabTo('Photos')
  await press('Space')
  await tabTo('Open the job')
  await press('Enter')
  await page.waitForURL(/jobs\/\d+\/answer/)
  await settled(page)
  await tabTo('Sources')
  await press('Enter')
  await page.waitForURL(/jobs\/\d+\/sources/)
  await settled(page)
  await expect(page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-11-14/ })).toBeVisible()
  await tabTo('Add Odile’s phone, state of 2026-11-14')
  await press('Enter')
  await expect(page.getByRole('button', { name: 'Start reading' })).toBeVisible()
  await settled(page)
  await tabTo('Start reading')
  await press('Enter')
  await expect(page.getByText('Read done')).toBeVisible()
  await tabTo('Look at the findings')
  await press('Enter')
  await page.waitForURL(/findings/)
  await settled(page)
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
  await tabTo('Photos')
  await page.getByRole('listbox').focus()
  await press('ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowLeft', 'Space')
  await expect(page.getByRole('listbox').getByRole('option').nth(1)).toHaveAttribute('aria-selected', 'true')
  await press('Enter')
  await expect(page.getByRole('dialog')).toBeVisible()
  await press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await press('End', 'Home', 'Space')
  await expect(page.getByRole('listbox').getByRole('option').first()).toHaveAttribute('aria-selected', 'true')
  await page.getByRole('listbox').focus()
  await page.getByRole('button', { name: 'All', exact: true }).focus()
  await press('Enter', '/')
  await page.keyboard.type('IMG_1003')
  await expect(page.getByRole('listbox').getByRole('option')).toHaveCount(1)
  await page.reload()
  await settled(page)
  await expect(page.getByLabel('Search', { exact: true })).toHaveValue('IMG_1003')
  await open(page, page.url().replace(/findings.*/, 'handover'))
  await expect(page.getByText('2 items in the tray')).toBeVisible()
  await page.getByLabel('Folder for the package').focus()
  await press('Control+A')
  await page.keyboard.type(join(handovers, 'by-keyboard'))
  await press('Enter')
  await expect(page.locator('[data-handover-state=done]')).toContainText('2 items')
})
