import type { Page } from '@playwright/test'
import { expect, expectAccessible, open, settled, test } from './steps.js'

/** A job of its own, so that the tests do not meet each other's sources. */
async function newJob(page: Page, owner: string): Promise<string> {
  await open(page, '/')
  const brief = {
    owner,
    categories: ['photos', 'messages'],
    lostFrom: '2026-10-05',
    lostTo: '2026-11-14',
    words: 'stage',
  }
  const id = await page.evaluate(async (body) => {
    const answer = await fetch('/api/jobs', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
    return (await answer.json()).id
  }, brief)
  return `/jobs/${id}`
}

test('the lost conversation comes out of the cloud: code, backup before the loss, handover', async ({ page }) => {
  const job = await newJob(page, 'Cloud case')
  await open(page, `${job}/sources`)
  const cloud = page.getByRole('region', { name: 'Cloud account' })
  await cloud.getByLabel('Account', { exact: true }).fill('odile@theatre.example')
  await cloud.getByLabel('Password of the account').fill('not this one')
  await cloud.getByRole('button', { name: 'Sign in' }).click()
  await expect(cloud.getByRole('alert')).toContainText('Account or password is wrong')
  await cloud.getByLabel('Password of the account').fill('curtain call')
  await cloud.getByRole('button', { name: 'Sign in' }).click()
  await cloud.getByLabel('Code', { exact: true }).fill('271828')
  await expectAccessible(page)
  await cloud.getByRole('button', { name: 'Continue' }).click()
  await expect(cloud).toContainText('Not kept: messages')
  await expectAccessible(page)
  await cloud.getByRole('button', { name: /Add: state of 2026-10-03/ }).click()
  const source = page.getByRole('article')
  await expect(source).toContainText('cloud backup')
  await expect(source).toContainText('before the loss')
  await expect(source).toContainText('To download')
  await source.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await open(page, `${job}/findings?category=messages&words=stage`)
  await page.getByRole('listbox').getByRole('option').first().click()
  const inspector = page.getByRole('complementary', { name: 'Inspector' })
  await inspector.getByRole('button', { name: 'Put in the tray' }).click()
  await expect(page.getByRole('link', { name: /^Tray\s*[1-9]/ })).toBeVisible()
  await open(page, `${job}/tray`)
  await expect(page.getByRole('region', { name: 'Messages' })).toContainText('1')
  await open(page, `${job}/handover`)
  await page.getByRole('button', { name: 'Make a zip to download' }).click()
  await expect(page.locator('[data-handover-state=done]')).toBeVisible()
})

test('a job is purged, and a record is left', async ({ page }) => {
  const job = await newJob(page, 'Purge case')
  await open(page, `${job}/log`)
  await page.getByText('Purge this job', { exact: true }).click()
  await expectAccessible(page)
  const number = await page.locator('h1 + span').innerText()
  await page.getByLabel('Number of the job').fill(number)
  await page.getByRole('button', { name: 'Remove everything' }).click()
  await expect(page.getByText(/Purged on/)).toBeVisible()
  await open(page, '/')
  await page.getByLabel('Search the jobs').fill(number)
  await expect(page.getByRole('row', { name: new RegExp(number) })).toContainText('See its record')
})

test('the bay shows each state with the way on, and a trusted phone is read', async ({ page, context }) => {
  const job = await newJob(page, 'Bay case')
  await open(page, '/bay')
  const device = (name: string) => page.getByRole('article', { name })
  await expect(device('Odile’s phone')).toContainText('ready to be read')
  await expect(device('Spare phone')).toContainText('was erased')
  await expect(device('00008030-001C64E80EF3802E')).toContainText('does not answer')
  await expectAccessible(page)
  // Rules are tried on what is there, and kept; none is switched on here, where others plug devices in.
  await page.getByText('When a device is plugged in:').click()
  await page.getByLabel('Any other device').selectOption('open a job for it, and read it there')
  await page.getByRole('button', { name: 'Try: what would be done now?' }).click()
  const plans = page.getByRole('status', { name: 'What would be done' })
  await expect(plans).toContainText('Spare phone: was erased: it is dealt with once it can be read.')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Switch off' }).click()
  await expect(plans).toBeHidden()
  await page.getByLabel('What is read').selectOption('pictures and films')
  await page.getByRole('button', { name: 'Save' }).press('Enter')
  await expect(page.getByRole('button', { name: 'Save' })).toBeDisabled()
  await page.reload()
  await page.getByText('When a device is plugged in:').click()
  await expect(page.getByLabel('What is read')).toHaveValue('pictures')
  // What goes with its intake, on one sheet.
  await device('Odile’s phone').getByRole('link', { name: 'Device sheet to print' }).click()
  await expect(page.locator('dt:text-is("Serial number") + dd')).toHaveText(/^LMB/)
  await expect(page.locator('dt:text-is("Capacity") + dd')).toHaveText(/GB$/)
  await expectAccessible(page)
  await open(page, '/bay/00000000-0000000000000000')
  await expect(page.getByText('This device is not on the cable now.')).toBeVisible()
  await open(page, '/bay')
  // The tablet asks; its owner agrees on its screen.
  const tablet = device('Workshop tablet')
  await tablet.getByRole('button', { name: 'Ask for trust' }).click()
  await expect(tablet.getByRole('alert')).toContainText('Confirm there')
  // The page of switches is another site, which is told its own origin.
  await context.setExtraHTTPHeaders({})
  const [controls] = await Promise.all([
    context.waitForEvent('page'),
    page.getByRole('link', { name: 'Switches of the demo devices' }).click(),
  ])
  await controls
    .getByRole('row', { name: /Workshop tablet/ })
    .getByLabel('trust')
    .selectOption('yes')
  await expect(controls.getByRole('status')).toContainText('trust yes')
  await controls.close()
  await tablet.getByRole('button', { name: 'Ask once more' }).click()
  await expect(tablet).toContainText('ready to be read')
  // The phone that waits in recovery gets its system back, with what is on it.
  const broken = device('Box office phone')
  await broken.getByText('Erase it and install anew').click()
  await expect(broken.getByRole('button', { name: 'Erase and install' })).toBeDisabled()
  await broken.getByRole('button', { name: 'Install it and keep what is there' }).click()
  await expect(device('Box office phone')).toContainText('does not trust this computer')
  // The phone is read for the job.
  const phone = device('Odile’s phone')
  await phone.getByRole('button', { name: /^Job:/ }).click()
  await page.getByPlaceholder('Number, owner or device').fill('Bay case')
  await page.keyboard.press('Enter')
  await phone.getByRole('button', { name: 'Add to this job' }).click()
  await page.waitForURL(`**${job}/sources`)
  await settled(page)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await expectAccessible(page)
  await open(page, `${job}/findings?category=photos`)
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
})
