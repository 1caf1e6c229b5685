import { cpSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileIdOf } from '@lumbrin/core/backup/manifest-values'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, open, settled, startReads, test } from './steps.js'

const backups = join(data, 'sources/Backup')
const PHONE = join(backups, '00008110-0007A5C22E8B401E')
const folderOf = (name: RegExp) => join(backups, readdirSync(backups).find((one) => name.test(one)) ?? '')

async function newJob(
  page: Page,
  owner: string,
  categories: CategoryId[],
): Promise<{ id: number; add(folder: string): Promise<number> }> {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner, categories } })).json()
  const add = async (folder: string) =>
    (await (await page.request.post(`/api/jobs/${id}/sources`, { data: { folder } })).json()).id
  return { id, add }
}

/** A copy of the phone's backup that a test may harm. */
function copyOfPhone(name: string): string {
  const folder = join(data, 'copies', name)
  rmSync(folder, { recursive: true, force: true })
  cpSync(PHONE, folder, { recursive: true })
  return folder
}

const fileIn = (folder: string, domain: string, path: string) => {
  const id = fileIdOf(domain, path)
  return join(folder, id.slice(0, 2), id)
}

test('a source that is taken away is waited for, and says nothing meanwhile', async ({ page }) => {
  const folder = copyOfPhone('unplugged')
  const job = await newJob(page, 'Unplugged disk', ['messages'])
  await job.add(folder)
  renameSync(folder, `${folder}.away`)
  await open(page, `/jobs/${job.id}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read waits for its source')).toBeVisible()
  await expect(page.getByRole('status').filter({ hasText: 'goes on by itself' })).toContainText(folder)
  await expectAccessible(page)
  await open(page, `/jobs/${job.id}/answer`)
  await expect(page.getByRole('heading', { name: 'Not found so far' })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Next step' })).toContainText(
    'Bring “Odile’s phone” of 2026-11-14 back',
  )
  renameSync(`${folder}.away`, folder)
  await open(page, `/jobs/${job.id}/sources`)
  await expect(page.getByText('Read done')).toBeVisible()
})

test('what could not be had is named with its reason, and can be tried again', async ({ page }) => {
  const folder = copyOfPhone('harmed')
  const notes = fileIn(folder, 'AppDomainGroup-group.com.apple.notes', 'NoteStore.sqlite')
  renameSync(notes, `${notes}.kept`)
  writeFileSync(notes, 'nothing like a database')
  const job = await newJob(page, 'Harmed backup', ['notes', 'photos'])
  await job.add(folder)
  await open(page, `/jobs/${job.id}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done, with gaps')).toBeVisible()
  const missing = page.getByRole('region', { name: 'What could not be had' })
  await expect(missing).toContainText('Notes: part of its database could not be read')
  await expectAccessible(page)
  await open(page, `/jobs/${job.id}/answer`)
  await expect(page.getByRole('region', { name: 'What was looked through' })).toContainText(
    'that it lists could not be had',
  )
  renameSync(`${notes}.kept`, notes)
  await open(page, `/jobs/${job.id}/sources`)
  await missing.getByRole('button', { name: 'Try again what is missing' }).click()
  await expect(page.getByText('Read done', { exact: true })).toBeVisible()
  await open(page, `/jobs/${job.id}/findings?category=notes`)
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
})

test('sources of several devices stand apart, and whose a device is can be corrected', async ({ page }) => {
  const job = await newJob(page, 'Three devices', ['messages'])
  await job.add(PHONE)
  await job.add(folderOf(/^old phone/))
  await page.request.post(`/api/jobs/${job.id}/devices`, { data: { udid: '00008110-0007A5C22E8B401E' } })
  await open(page, `/jobs/${job.id}/sources`)
  await startReads(page)
  await expect(page.getByText('Read done')).toHaveCount(3)
  const devices = page.getByRole('region', { name: 'Devices of this job' })
  await expect(devices.getByRole('listitem')).toHaveCount(2)
  await expectAccessible(page)
  // The cable and the backup show one phone; the old one never says what is gone from it.
  await open(page, `/jobs/${job.id}/findings?category=messages&standings=elsewhere`)
  await expect(page.getByRole('button', { name: /^elsewhere [1-9]/ })).toBeVisible()
  await open(page, `/jobs/${job.id}/sources`)
  await devices.getByLabel('Whose “Odile’s old phone” is').selectOption({ label: 'the brief is about it' })
  await settled(page)
  await expect(devices.getByLabel('Whose “Odile’s old phone” is')).toHaveValue('brief')
  await expect(devices.getByLabel('Whose “Odile’s phone” is')).toHaveValue('owner')
})

test('every number of a restore cost opens its items', async ({ page }) => {
  const job = await newJob(page, 'Restore cost', ['messages', 'contacts'])
  const phone = await job.add(PHONE)
  const before = await job.add(folderOf(/-20261020-/))
  await page.request.post(`/api/sources/${before}/lock`, { data: { password: 'seven strings' } })
  await expect
    .poll(async () => (await (await page.request.get(`/api/sources/${before}/lock`)).json()).state)
    .toBe('open')
  await open(page, `/jobs/${job.id}/sources`)
  await expect(page.getByText('Unlocked.')).toBeVisible()
  await startReads(page)
  await expect(page.getByText('Read done')).toHaveCount(2)
  await open(page, `/jobs/${job.id}/differences?first=${before}&second=${phone}`)
  await expect(page.getByText(/were not compared/)).toBeVisible()
  await expect(page.getByRole('region', { name: 'Not compared' })).toContainText('Calls')
  await expectAccessible(page)
  const back = page.getByRole('link', { name: /Messages come back/ })
  const count = Number((await back.innerText()).replace(',', ''))
  await back.click()
  await settled(page)
  await expect(page.getByText('Shown: what a restore would bring back.')).toBeVisible()
  const query = new URL(page.url()).searchParams
  const lines = await (await page.request.get(`/api/jobs/${job.id}/findings?${query}`)).json()
  expect(lines.length).toBe(Math.min(count, 200))
  const table = await (
    await page.request.get(`/api/jobs/${job.id}/differences?first=${before}&second=${phone}&items=true`)
  ).text()
  expect(table.split('\r\n').filter((line) => line.startsWith('Messages,comes back')).length).toBe(count)
})

test('a search that cannot be understood says so, and goes on without it', async ({ page }) => {
  const job = await newJob(page, 'Search', ['messages'])
  await job.add(PHONE)
  await open(page, `/jobs/${job.id}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await open(page, `/jobs/${job.id}/findings?category=messages&layout=list`)
  await page.getByLabel('Search', { exact: true }).fill('before:soon from:BRAM -rehearsal')
  await expect(page.getByText('before:soon is left out of this search')).toBeVisible()
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
  await expectAccessible(page)
})
