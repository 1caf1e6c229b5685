import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, firstJobRead, open, settled, startReads, test } from './steps.js'

test('every view passes axe, in light and in dark', async ({ page }) => {
  const job = await firstJobRead(page)
  await expectAccessible(page)
  for (const path of [
    '/',
    '/jobs/new',
    '/settings',
    '/copies',
    ...['answer', 'order', 'people', 'tray', 'handover', 'log'].map((view) => `${job}/${view}`),
  ]) {
    await open(page, path)
    await expectAccessible(page)
  }
  for (const query of [
    'category=photos',
    'category=messages',
    'category=messages&layout=list',
    'category=photos&words=nothing-like-it',
  ]) {
    await open(page, `${job}/findings?${query}`)
    const option = page.getByRole('listbox').getByRole('option').first()
    if (!query.includes('nothing')) await option.click()
    await expectAccessible(page)
  }
  await open(page, `${job}/findings?category=photos`)
  await page.getByRole('listbox').getByRole('option').first().dblclick()
  await expect(page.getByRole('dialog')).toBeVisible()
  await expectAccessible(page)
})

test('every view can be used at 200 %', async ({ page }) => {
  const job = await firstJobRead(page)
  // What a window of 1280x800 has room for then.
  await page.setViewportSize({ width: 640, height: 400 })
  for (const path of [
    '/',
    '/jobs/new',
    '/bay',
    '/copies',
    ...[
      'answer',
      'sources',
      'findings?category=photos',
      'findings?category=messages',
      'people',
      'tray',
      'handover',
    ].map((view) => `${job}/${view}`),
  ]) {
    await open(page, path)
    await expectAccessible(page)
    const sideways = () => document.documentElement.scrollWidth - document.documentElement.clientWidth
    expect([path, await page.evaluate(sideways)]).toEqual([path, 0])
  }
})

test('a rebuilt row can be checked byte by byte', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=messages&layout=list&standings=rebuilt`)
  await page.getByRole('listbox').getByRole('option').first().click()
  const words = await page.getByRole('complementary', { name: 'Inspector' }).locator('p[dir=auto]').innerText()
  await page.getByRole('link', { name: 'Show the bytes' }).click()
  await settled(page)
  await expect(page.getByRole('combobox')).toHaveValue(/^\d+$/)
  await expect(page.getByRole('row', { name: /^text/ })).toContainText(words)
  await expectAccessible(page)
  const map = page.getByRole('slider', { name: 'Page in the map' })
  await map.focus()
  await page.keyboard.press('Home')
  await expect(page.getByLabel('Page', { exact: true })).toHaveValue('1')
  await page.keyboard.press('ArrowRight')
  await expect(page.getByLabel('Page', { exact: true })).toHaveValue('2')
  await expect(map).toHaveAttribute('aria-valuetext', /^page 2: /)
})

test('an encrypted backup is found, unlocked, looked into and checked', async ({ page }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Mirela Santos' } })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-10-20/ }).click()
  const password = page.getByLabel('Password of the backup')
  await expect(password).toBeVisible()
  await settled(page)
  await password.fill('eight strings')
  await page.getByRole('button', { name: 'Unlock' }).click()
  await expect(page.getByRole('alert')).toContainText('does not open this backup')
  await expectAccessible(page)
  await password.fill('seven strings')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Unlocked.')).toBeVisible()
  await page.getByRole('link', { name: 'Browse its files' }).last().click()
  await expect(page.getByRole('region', { name: 'By category' })).toContainText('Messages')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Files' }).click()
  await page.getByLabel('Search all paths').fill('sms.db')
  await page.getByRole('button', { name: /HomeDomain\/Library\/SMS\/sms.db/ }).click()
  await page.getByRole('combobox').selectOption('handle')
  await expect(page.getByRole('region', { name: 'Rows' })).toContainText('+1202555')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Integrity' }).click()
  await expect(page.getByText(/All \d+ files are there/)).toBeVisible()
  await expectAccessible(page)
})

test('a disk is searched, and the search can be stopped', async ({ page }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Mirela Santos' } })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByLabel(/^Folder of a backup/).fill('/usr')
  await page.getByRole('button', { name: 'Search below it' }).click()
  await page.getByRole('button', { name: 'Stop' }).click()
  await expect(page.getByText('The search was stopped.')).toBeVisible()
})

/** The backups that the search of this computer finds. */
async function foundBackups(page: Page): Promise<{ path: string; encrypted: boolean }[]> {
  const lines = (await (await page.request.get('/api/backups')).text()).trim().split('\n')
  return lines.flatMap((line) => JSON.parse(line).backup ?? [])
}

/** The demo's smallest backup, as a user's own folder. */
function legacyBackup(): string {
  const backups = join(data, 'sources/Backup')
  const name = readdirSync(backups).find((one) => existsSync(join(backups, one, 'Manifest.mbdb')))
  return join(backups, name ?? 'the demo has none')
}

test('a folder is brought in from the computer that the browser runs on', async ({ page }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Mirela Santos' } })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByLabel(/upload a backup folder/).setInputFiles(legacyBackup())
  await expect(page.getByRole('article')).toContainText('old layout')
  await expect(page.getByRole('link', { name: 'Browse its files' })).toBeVisible()
})

test('two sources are drawn, compared, and the route follows the brief', async ({ page }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Odile Varga', words: 'stage' } })).json()
  for (const backup of await foundBackups(page))
    if (!backup.encrypted) await page.request.post(`/api/jobs/${id}/sources`, { data: { folder: backup.path } })
  await open(page, `/jobs/${id}/sources`)
  const strata = page.getByRole('figure', { name: /Strata/ })
  await expect(strata.getByRole('button')).toHaveCount(2)
  await startReads(page)
  await expect(page.getByText('Read done')).toHaveCount(2)
  await strata.getByRole('button').first().focus()
  await page.keyboard.press('Enter')
  await expect(strata.getByRole('button', { pressed: true })).toHaveCount(1)
  await expectAccessible(page)
  await page.getByRole('link', { name: 'Differences and restore cost' }).click()
  await expect(page.getByText(/would be wiped/)).toBeVisible()
  await settled(page)
  await expectAccessible(page)
  await open(page, `/jobs/${id}/answer`)
  const route = page.getByRole('region', { name: 'Route' })
  await expect(route).toContainText('Stop using the device')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Change the brief' }).click()
  await page.getByLabel(/^The device is/).selectOption('erased')
  await expect(route).toContainText('Do not read the device for leftovers')
  await expect(route).not.toContainText('Stop using the device')
  await open(page, `/jobs/${id}/findings?category=messages&layout=list&matching=true`)
  await page.getByRole('listbox').getByRole('option').first().click()
  const inspector = page.getByRole('complementary', { name: 'Inspector' })
  await expect(inspector).toContainText('Match with the brief')
  await expectAccessible(page)
})

test('a mapping profile is tried, saved and removed', async ({ page }) => {
  await firstJobRead(page)
  await open(page, '/profiles')
  await page.getByRole('button', { name: 'Puppetry Chat' }).click()
  await page.getByRole('button', { name: 'Try it' }).click()
  await expect(page.getByRole('region', { name: 'What it reads' })).toContainText(/\d+ messages, \d+ rebuilt/)
  await expectAccessible(page)
  const field = page.getByLabel('The profile, as JSON')
  const text = await field.inputValue()
  await page.getByRole('button', { name: 'Save as your own' }).click()
  await expect(page.getByRole('alert')).toContainText('ships with the product')
  await field.fill(text.replace('"said"', '"said it"'))
  await page.getByRole('button', { name: 'Try it' }).click()
  await expect(page.getByRole('alert')).toContainText('a column name')
  await field.fill(text.replace('"puppetry-chat"', '"mine"').replace('"Puppetry Chat"', '"Mine"'))
  await page.getByRole('button', { name: 'Save as your own' }).click()
  await expect(page.getByText('Saved as “Mine”.')).toBeVisible()
  await page.reload()
  await settled(page)
  await page.getByRole('button', { name: 'Remove Mine' }).click()
  await expect(page.getByText('None yet.')).toBeVisible()
})

test('long lists put only what is seen on the page', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=messages&layout=list`)
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
  await page.waitForTimeout(500)
  expect(await page.getByRole('listbox').getByRole('option').count()).toBeLessThan(60)
  await page.getByRole('listbox').focus()
  await page.keyboard.press('End')
  await expect(page.getByRole('listbox').getByRole('option').last()).toBeVisible()
  expect(await page.getByRole('listbox').getByRole('option').count()).toBeLessThan(60)
})

test('wrong input is answered with what happened and what to do', async ({ page }) => {
  const job = await firstJobRead(page)
  await page.getByLabel('Folder of a backup').fill('/usr')
  await page.getByRole('button', { name: 'Add this', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('holds no backup')
  await open(page, `${job}/findings`)
  await page.getByRole('listbox').getByRole('option').first().click()
  await page.getByRole('button', { name: 'Put in the tray' }).click()
  await expect(page.getByRole('link', { name: 'Tray 1' })).toBeVisible()
  await open(page, `${job}/handover`)
  await page.getByLabel('Folder for the package').fill('/usr/share/package')
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.getByRole('alert')).toContainText('outside the folders for handovers')
  await open(page, '/settings')
  await page.getByLabel(/Folders for handovers/).fill('/nowhere/at/all')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('There is no folder "/nowhere/at/all"')).toBeVisible()
  await open(page, '/jobs/new')
  await page.getByLabel(/^Owner/).fill('Somebody')
  await page.getByLabel(/^Lost after/).fill('2026-05-02')
  await page.getByLabel(/^Lost before/).fill('2026-05-01')
  await page.getByRole('button', { name: 'Open the job' }).click()
  await expect(page.getByText('cannot end before it begins')).toBeVisible()
})

test('a brief is saved and shown in the header', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/answer`)
  await page.getByRole('button', { name: 'Change the brief' }).click()
  await page.getByLabel(/^Words/).fill('folding stage')
  await page.getByRole('button', { name: 'Save the brief' }).click()
  await expect(page.getByText('The brief is saved.')).toBeVisible()
  await expect(page.getByText(/about “folding stage”/)).toBeVisible()
})

/** Opens the form of the brief as far as its notes. */
async function notesOf(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Change the brief' }).click()
  await page.getByText('More: due, retention').click()
}

test('two people who change one brief are told, and neither text is lost', async ({ page, context }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Mirela Santos' } })).json()
  const other = await context.newPage()
  await open(page, `/jobs/${id}/answer`)
  await open(other, `/jobs/${id}/answer`)
  for (const one of [page, other]) await notesOf(one)
  await other.getByRole('textbox', { name: /^Notes/ }).fill('She keeps a copy at her sister’s.')
  await other.getByRole('button', { name: 'Save the brief' }).click()
  await expect(other.getByText('The brief is saved.')).toBeVisible()
  await page.getByRole('textbox', { name: /^Notes/ }).fill('The phone was in the rain.')
  await page.getByRole('button', { name: 'Save the brief' }).click()
  const crossed = page.getByRole('alert', { name: 'Two versions of this brief' })
  await expect(crossed).toContainText('The phone was in the rain.')
  await expect(crossed).toContainText('She keeps a copy at her sister’s.')
  await expectAccessible(page)
  await crossed.getByRole('button', { name: 'Take theirs' }).click()
  await expect(page.getByRole('textbox', { name: /^Notes/ })).toHaveValue('She keeps a copy at her sister’s.')
  await page
    .getByRole('textbox', { name: /^Notes/ })
    .fill('She keeps a copy at her sister’s. The phone was in the rain.')
  await page.getByRole('button', { name: 'Save the brief' }).click()
  await expect(page.getByText('The brief is saved.')).toBeVisible()
  // The other one now has an old version in turn, and may put its own in the place of it.
  await notesOf(other)
  await other.getByLabel(/^Words/).fill('umbrella')
  await other.getByRole('button', { name: 'Save the brief' }).click()
  await other.getByRole('button', { name: 'Save mine in its place' }).click()
  await expect(other.getByText('The brief is saved.')).toBeVisible()
  const { brief } = await (await page.request.get(`/api/jobs/${id}/brief`)).json()
  expect(brief).toMatchObject({ words: 'umbrella', notes: 'She keeps a copy at her sister’s.' })
})

test('two people who change the settings are told, and neither list is lost', async ({ page, context }) => {
  const searched = (one: typeof page) => one.getByLabel(/Folders searched for backups/)
  const saved = (one: typeof page) => one.getByText('Saved.')
  const other = await context.newPage()
  await open(page, '/settings')
  await open(other, '/settings')
  const before = await searched(page).inputValue()
  await searched(other).fill(`${before}\n/usr/share`)
  await other.getByRole('button', { name: 'Save' }).click()
  await expect(saved(other)).toBeVisible()
  await searched(page).fill(`${before}\n/usr/lib`)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  const crossed = page.getByRole('alert', { name: 'Two versions of the settings' })
  await expect(crossed).toContainText('/usr/share')
  await expect(searched(page)).toHaveValue(`${before}\n/usr/lib`)
  await expectAccessible(page)
  await crossed.getByRole('button', { name: 'Take theirs' }).click()
  await expect(searched(page)).toHaveValue(`${before}\n/usr/share`)
  // As it was: other tests look into these folders.
  await searched(page).fill(before)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(saved(page)).toBeVisible()
})
