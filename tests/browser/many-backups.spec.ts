import { cpSync } from 'node:fs'
import { join } from 'node:path'
import { data } from '../../playwright.config.js'
import { SHELF_PASSWORD, shelve } from '../setup/shelf.js'
import { expect, expectAccessible, open, settled, test } from './steps.js'

const DISK = join(data, 'disk of backups')

/** Backups of two phones; one lies there twice, one has another password, one is damaged. */
async function fillDisk(): Promise<void> {
  const put = (name: string, device: number, day: string, more: Partial<Parameters<typeof shelve>[0]> = {}) =>
    shelve({
      folder: join(DISK, name),
      device,
      kind: 'plain',
      harm: null,
      takenAt: new Date(`${day}T10:00:00Z`),
      messages: ['Are the strings cut?', `Rehearsal on ${day}`],
      ...more,
    })
  await put('2026-11-20', 0, '2026-11-20')
  await put('2026-11-01', 0, '2026-11-01')
  await put('2026-09-01', 0, '2026-09-01', { kind: 'encrypted' })
  await put('2026-08-01', 0, '2026-08-01', { kind: 'encrypted', password: 'ten strings' })
  await put('2026-07-01', 0, '2026-07-01', { harm: 'list' })
  await put('neighbour', 1, '2026-11-02')
  cpSync(join(DISK, '2026-11-01'), join(DISK, 'safe', 'again'), { recursive: true })
}

test('a disk of backups is looked through in a table, and read without anybody there', async ({ page }) => {
  await fillDisk()
  const brief = { owner: 'Leda Novak', device: 'phone 1', categories: ['messages'], lostFrom: '2026-11-10' }
  const { id } = await (await page.request.post('/api/jobs', { data: brief })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByRole('link', { name: 'Look at all of them in a table' }).click()
  await page.waitForURL('**/backups')
  await settled(page)
  await page.getByLabel(/^Disk or folder to search/).fill(DISK)
  await page.keyboard.press('Enter')
  const table = page.getByRole('table')
  await expect(page.getByText('7 of 7 shown, 5 may help')).toBeVisible()
  const rows = table.getByRole('row').filter({ has: page.getByRole('checkbox', { name: /^Phone/ }) })
  await expect(rows).toHaveCount(7)
  // What fits best stands first, what need not be read last.
  await expect(rows.first()).toContainText('fits best')
  await expect(rows.first()).toContainText('2026-11-01')
  await expect(rows.filter({ hasText: 'the same state lies in another folder' })).toHaveCount(1)
  await expect(rows.last()).toContainText('of another device')
  await expectAccessible(page)

  // Sorted, narrowed down and ticked by keyboard.
  await table.getByRole('button', { name: /^State of/ }).focus()
  await page.keyboard.press('Enter')
  await expect(table.getByRole('columnheader', { name: /^State of/ })).toHaveAttribute('aria-sort', /ascending/)
  await page.getByLabel('Only those that may help').press('Space')
  await expect(rows).toHaveCount(5)
  await page.getByLabel('Search these backups').fill('2026-11-20')
  await expect(rows).toHaveCount(1)
  await rows.getByRole('checkbox').press('Space')
  await expect(page.getByText('1 backup chosen.')).toBeVisible()
  await page.getByLabel('Search these backups').fill('')
  await page.getByRole('button', { name: 'Choose the 5 that may help' }).press('Enter')
  await expect(page.getByText('5 backups chosen, 2 with a password.')).toBeVisible()
  await page.getByLabel('Password to try on those with one').fill(SHELF_PASSWORD)
  await page.getByRole('button', { name: 'Add 5 backups' }).press('Enter')
  await expect(page.getByText('5 backups were added.')).toBeVisible()
  await expect(rows).toHaveCount(0)

  // In the morning: what was done, and what needs a hand.
  const summary = page.getByRole('region', { name: 'What came of the reads' })
  await expect(summary.getByRole('listitem')).toHaveCount(2)
  await expect(summary).toContainText('3 done · 1 done with gaps · 1 waiting')
  await expect(summary.getByRole('listitem').filter({ hasText: 'its password is needed' })).toContainText('2026-08-01')
  await expect(summary.getByRole('listitem').filter({ hasText: 'Manifest.db' })).toContainText('2026-07-01')
  await expectAccessible(page)

  // The other password lets its read go on by itself.
  await summary.getByRole('link', { name: /2026-08-01/ }).click()
  const locked = page.getByRole('article').filter({ has: page.locator('[data-read-state=away]') })
  await locked.getByLabel('Password of the backup').fill('ten strings')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-read-state=away]')).toHaveCount(0)
  await expect(page.locator('[data-read-state=done]')).toHaveCount(4)
})
