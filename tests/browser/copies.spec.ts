import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, truncateSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, open, test } from './steps.js'

const PLACE = join(data, 'handovers', 'copies of phones')

/** The folders of all copies in the place. */
const statesKept = (): string[] =>
  readdirSync(join(PLACE, 'copies')).flatMap((device) =>
    readdirSync(join(PLACE, 'copies', device)).map((state) => join(PLACE, 'copies', device, state)),
  )

async function newJob(page: Page, owner: string): Promise<string> {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner } })).json()
  return `/jobs/${id}`
}

test('states are kept, checked with general tools, mended, opened in a job, and removed', async ({ page }) => {
  const job = await newJob(page, 'Leda Novak')
  const other = await newJob(page, 'Mika Aalto')
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s old phone/ }).click()
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-11-14/ }).click()
  for (const [nth, name] of ['Odile’s old phone', 'Odile’s phone'].entries()) {
    await page.getByRole('article', { name, exact: true }).getByRole('button', { name: 'Keep a safe copy' }).click()
    const dialog = page.getByRole('dialog')
    if (nth === 0) {
      await dialog.getByLabel('Where it is kept').selectOption('A new place…')
      await dialog.getByLabel('Folder of the new place').fill(PLACE)
    } else await dialog.getByLabel('Where it is kept').selectOption(PLACE)
    await expectAccessible(page)
    await dialog.getByRole('button', { name: 'Make the copy' }).click()
    await expect(dialog.getByText('The copy is being made.')).toBeVisible()
    await dialog.getByRole('button', { name: 'Close' }).click()
  }

  // An earlier state of the phone: locked, it is refused in words; unlocked, it is kept.
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-10-20/ }).click()
  const locked = page.getByRole('article').filter({ has: page.getByLabel('Password of the backup') })
  await locked.getByRole('button', { name: 'Keep a safe copy' }).click()
  await page.getByRole('button', { name: 'Make the copy' }).click()
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText('is locked')
  await page.getByRole('dialog').getByRole('button', { name: 'Cancel' }).click()
  await page.getByLabel('Password of the backup').fill('seven strings')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Unlocked.')).toBeVisible()
  await page.getByRole('article').last().getByRole('button', { name: 'Keep a safe copy' }).click()
  await page.getByRole('button', { name: 'Make the copy' }).click()
  await expect(page.getByText('The copy is being made.')).toBeVisible()

  await open(page, '/copies')
  await page.getByRole('button', { name: PLACE }).click()
  const work = page.getByRole('region', { name: 'Work on copies' })
  const place = page.getByRole('region', { name: PLACE })
  await expect(place.getByRole('checkbox', { name: /^The copy of/ })).toHaveCount(3)
  await expect(work.getByText(/^Made\. /).first()).toBeVisible()
  await expect(place.getByText('the first')).toHaveCount(2)
  await expectAccessible(page)

  // Checked by what any computer has: sha256sum, GNU coreutils.
  for (const state of statesKept())
    execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], { cwd: state })
  await place.getByRole('button', { name: 'Check all' }).click()
  await expect(work.getByText(/^Every sum is right/)).toBeVisible()
  await expect(place.getByText(/^right, /)).toHaveCount(3)

  // A disk goes bad under a content.
  const content = join(PLACE, 'content')
  const folder = join(content, readdirSync(content).filter((name) => !name.startsWith('.'))[0] as string)
  truncateSync(join(folder, readdirSync(folder)[0] as string), 3)
  await place.getByRole('button', { name: 'Check all' }).click()
  await expect(work.getByRole('alert')).toContainText('1 content is not right')
  await expect(place.getByText('1 fault').first()).toBeVisible()
  await expectAccessible(page)

  await page.getByRole('button', { name: /^Open the copy of 2015-08-30 in a job/ }).click()
  await page
    .getByRole('dialog')
    .getByRole('combobox')
    .selectOption(other.split('/').at(-1) as string)
  await page.getByRole('button', { name: 'Add it as a source' }).click()
  await page.waitForURL(`**${other}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
})

test('copies are thinned out and removed by keyboard, and what others need stays', async ({ page }) => {
  await open(page, '/copies')
  await page.getByRole('button', { name: PLACE }).press('Enter')
  const place = page.getByRole('region', { name: PLACE })
  await place.getByRole('button', { name: 'Thin out…' }).press('Enter')
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Days of which all are kept').fill('0')
  // There is one of each device, and the newest always stays.
  await expect(dialog.getByText('By this rule none goes.')).toBeVisible()
  await expectAccessible(page)
  await page.keyboard.press('Escape')
  await place.getByRole('checkbox', { name: 'The copy of 2026-11-14' }).press('Space')
  await place.getByRole('checkbox', { name: 'The copy of 2026-10-20' }).press('Space')
  await place.getByRole('button', { name: 'Compare…' }).press('Enter')
  await expect(dialog).toContainText('Odile’s phone, from 2026-10-20')
  await dialog.getByRole('button', { name: /^No longer in it / }).press('Enter')
  await expect(dialog.getByRole('listitem').first()).toBeVisible()
  await expectAccessible(page)
  await page.keyboard.press('Escape')
  await place.getByRole('checkbox', { name: 'The copy of 2026-11-14' }).press('Space')
  await place.getByRole('checkbox', { name: 'The copy of 2026-10-20' }).press('Space')
  await place.getByRole('checkbox', { name: 'The copy of 2015-08-30' }).press('Space')
  await expect(place.getByText('1 chosen')).toBeVisible()
  await place.getByRole('button', { name: 'Remove…' }).press('Enter')
  await expect(dialog).toContainText('Odile’s old phone, 2015-08-30')
  await expectAccessible(page)
  await dialog.getByRole('button', { name: 'Remove it' }).press('Enter')
  await expect(page.getByText(/^1 copy removed, /)).toBeVisible()
  await expect(place.getByRole('checkbox', { name: 'The copy of 2015-08-30' })).toHaveCount(0)
  await expect(place.getByRole('checkbox', { name: 'The copy of 2026-11-14' })).toBeVisible()
})

test('a phone on the cable is copied once by mouse, and each week by keyboard, without a job', async ({ page }) => {
  const before = statesKept()
  await open(page, '/copies')
  await page.getByRole('button', { name: PLACE }).click()
  const place = page.getByRole('region', { name: PLACE })
  const work = page.getByRole('region', { name: 'Work on copies' })
  await place.getByRole('button', { name: 'Copy a device…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Copy a device' })
  const phone = dialog
    .getByRole('combobox', { name: 'Device' })
    .getByRole('option', { name: 'Odile’s phone (ready to be read)' })
  await expect(phone).toBeAttached()
  await dialog.getByRole('combobox', { name: 'Device' }).selectOption(await phone.innerText())
  await expectAccessible(page)
  await dialog.getByRole('button', { name: 'Copy it now' }).click()
  await expect(dialog).toBeHidden()
  const copied = work.getByRole('listitem').filter({ hasText: 'Copy of “Odile’s phone”' })
  await expect(copied.first()).toContainText('Made. ')

  await place.getByRole('button', { name: 'Copy a device…' }).press('Enter')
  await expect(dialog.getByRole('combobox', { name: 'Device' })).toBeVisible()
  await dialog.getByRole('combobox', { name: 'Device' }).selectOption(await phone.innerText())
  await dialog.getByLabel('Everything that it gives').press('ArrowDown')
  await expect(dialog.getByLabel('Pictures, films, recordings and music')).toBeChecked()
  await dialog.getByLabel('How often').selectOption('each week, as soon as it is attached')
  await dialog.getByRole('button', { name: 'Copy it each week' }).press('Enter')
  const regular = place.getByRole('region', { name: 'Regular copies' })
  await expect(regular).toContainText('Odile’s phone')
  await expect(regular).toContainText('next from')
  await expect(copied.first()).toContainText(/^Copy of “Odile’s phone”.*(Made|copied before)/)
  await expectAccessible(page)
  await regular.getByRole('button', { name: 'End the regular copies of Odile’s phone' }).press('Enter')
  await expect(regular).toBeHidden()
  // What any computer has finds no fault in them: sha256sum, GNU coreutils.
  const made = statesKept().filter((state) => !before.includes(state))
  expect(made.length).toBeGreaterThan(0)
  for (const state of made)
    execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], { cwd: state })
})

test('a place is moved to another folder by keyboard, and every copy of it is there and right', async ({ page }) => {
  const to = `${PLACE}, on another disk`
  const names = statesKept().map((state) => state.slice(PLACE.length))
  await open(page, '/copies')
  await page.getByRole('button', { name: PLACE }).press('Enter')
  await page.getByRole('region', { name: PLACE }).getByRole('button', { name: 'Move…', exact: true }).press('Enter')
  const dialog = page.getByRole('dialog', { name: 'Move this place' })
  await dialog.getByLabel('New folder').fill('/etc')
  await dialog.getByLabel('New folder').press('Enter')
  await expect(page.getByRole('region', { name: PLACE }).getByRole('alert')).toContainText('outside the folders')
  await page.getByRole('region', { name: PLACE }).getByRole('button', { name: 'Move…', exact: true }).press('Enter')
  await dialog.getByLabel('New folder').fill(to)
  await expectAccessible(page)
  await dialog.getByLabel('New folder').press('Enter')
  const moved = page.getByRole('region', { name: 'Work on copies' }).getByRole('listitem')
  await expect(moved.filter({ hasText: `Move to ${to}` })).toContainText('each read again in the new folder')
  await expect(page.getByRole('region', { name: to })).toBeVisible()
  expect(existsSync(PLACE)).toBe(false)
  for (const name of names)
    execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], { cwd: to + name })
})

test('a place that cannot be is said to be none, and nothing is changed in it', async ({ page }) => {
  const taken = join(data, 'handovers', 'letters')
  mkdirSync(taken, { recursive: true })
  writeFileSync(join(taken, 'letter.txt'), 'Dear Leda')
  await open(page, '/copies')
  for (const [folder, why] of [
    ['/etc', 'outside the folders'],
    [taken, 'holds'],
  ] as const) {
    await page.getByLabel('Add a place').fill(folder)
    await page.getByRole('button', { name: 'Add this folder' }).click()
    await expect(page.getByRole('navigation', { name: 'Places of copies' }).getByRole('alert')).toContainText(why)
  }
  expect(readdirSync(taken)).toEqual(['letter.txt'])
})
