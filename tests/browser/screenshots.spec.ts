import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { BACKUPS, PHONE } from './kinds.js'
import { Round } from './rounds.js'
import { expect, firstJobRead, open, settled, test } from './steps.js'

const shots = join(import.meta.dirname, '../../docs/screenshots')

/** Takes the pictures of the README anew: `npm run screenshots`. */
test('pictures of the main views', async ({ page }) => {
  test.setTimeout(400_000)
  const shot = async (name: string) => {
    await page.waitForLoadState('networkidle').catch(() => {})
    await page.screenshot({ path: join(shots, `${name}.png`) })
  }
  await open(page, '/')
  await page.getByLabel('Search the jobs').fill('2026-0001-')
  await page.getByRole('link', { name: /^2026-0001-/ }).click()
  await settled(page)
  const job = page.url().replace(/\/answer$/, '')
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText(/^[1-9][\d,]* reading…|[1-9]\d* done/).first()).toBeVisible()
  await shot('sources-reading')
  await firstJobRead(page)
  await page.getByLabel('Chosen kinds').first().check()
  await page.getByLabel('Notes', { exact: true }).first().check()
  await page.getByLabel('Contacts', { exact: true }).first().check()
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toHaveCount(2)
  await open(page, `${job}/people?name=Bram+Okafor`)
  await page.getByRole('listbox').getByRole('option').nth(2).click()
  await page.waitForTimeout(800)
  await shot('people')
  await open(page, `${job}/findings?category=photos`)
  await page.getByRole('listbox').getByRole('option').nth(3).click()
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(1500)
  await shot('findings-grid')
  await open(page, `${job}/findings?category=messages&conversation=${encodeURIComponent('iMessage;-;+12025550100')}`)
  await page.getByRole('button', { name: 'Put the conversation in the tray' }).click()
  await page.getByRole('listbox').getByRole('option').nth(2).click()
  await page.waitForTimeout(500)
  await shot('findings-conversation')
  await open(page, `${job}/findings?category=messages&layout=list&standings=rebuilt`)
  await page.getByRole('listbox').getByRole('option').nth(3).click()
  await page.getByRole('link', { name: 'Show the bytes' }).click()
  await expect(page.getByRole('region', { name: 'Bytes of the page' })).toBeVisible()
  await page.waitForTimeout(500)
  await shot('inside')
  await open(page, `${job}/tray`)
  await shot('tray')
  await open(page, `${job}/handover`)
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.locator('[data-handover-state=done]')).toBeVisible()
  await shot('handover')
  await open(page, `${job}/backups`)
  await page.getByRole('checkbox', { name: /^Odile’s phone/ }).check()
  await page.waitForTimeout(500)
  await shot('backups')
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Mirela Santos' } })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-10-20/ }).click()
  await expect(page.getByLabel('Password of the backup')).toBeVisible()
  await page.getByLabel('Password of the backup').fill('seven strings')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Unlocked.')).toBeVisible()
  await page.getByRole('link', { name: 'Browse its files' }).last().click()
  await page.getByRole('button', { name: 'Files' }).click()
  await page.getByLabel('Search all paths').fill('sms.db')
  await page.getByRole('button', { name: /HomeDomain\/Library\/SMS\/sms.db/ }).click()
  await page.getByRole('combobox').selectOption('message')
  await page.waitForTimeout(800)
  await shot('source-files')
  await takeTwoSources(page, job, shot)
  await takeCopies(page, job, shot)
  await takeElsewhere(page, job, shot)
  await open(page, '/')
  await shot('jobs')
})

/** Takes the pictures of what an owner is given, for docs/handover.md. */
test('pictures of a package', async ({ page, request, baseURL }) => {
  test.setTimeout(400_000)
  const { settings, version } = await (await request.get('/api/settings')).json()
  const shop = { name: 'Harrow Mill Bench', address: '14 Lower Quay\nHarrow Mill', mark: null }
  const saved = await request.put('/api/settings', {
    data: { ...settings, shop },
    headers: { 'if-match': `"${version}"` },
  })
  expect(saved.ok()).toBe(true)
  const categories = ['photos', 'videos', 'messages', 'message-attachments', 'notes', 'contacts', 'events'] as const
  const round = await Round.begin(request, baseURL ?? '', 'Odile Marchetti', [...categories])
  const source = await round.add('sources', { folder: join(BACKUPS, PHONE) })
  await round.read(source, categories)
  const folder = await round.handOver(await round.findings(), new Map())
  const start = pathToFileURL(join(folder, 'index.html')).href
  const pictures = join(import.meta.dirname, '../../docs/package')
  const shot = async (name: string, route: string) => {
    await page.goto('about:blank')
    await page.goto(`${start}${route}`)
    await page.waitForTimeout(1200)
    await page.screenshot({ path: join(pictures, `${name}.png`) })
  }
  await shot('start', '')
  await shot('gallery', '#/kind/photos')
  await page.goto(`${start}#/kind/messages`)
  await page.getByRole('main').getByRole('link').filter({ hasText: 'had been lost' }).first().click()
  await page.getByRole('button', { name: 'Next that had been lost' }).click()
  await page.waitForTimeout(800)
  await page.screenshot({ path: join(pictures, 'conversation.png') })
  await page.setViewportSize({ width: 390, height: 800 })
  await shot('on-a-phone', '#/kind/photos')
  for (const [name, paper] of [
    ['report', 'data/report.pdf'],
    ['receipt', 'receipt.pdf'],
  ] as const)
    execFileSync('pdftoppm', ['-r', '72', '-png', '-singlefile', join(folder, paper), join(pictures, name)])
})

type Shot = (name: string) => Promise<void>

/** The job with the backup from before the loss as well: what only two sources together tell. */
async function takeTwoSources(page: Page, job: string, shot: Shot): Promise<void> {
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-10-20/ }).click()
  await page.getByLabel('Password of the backup').fill('seven strings')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Unlocked.')).toBeVisible()
  const source = page.getByRole('article').last()
  await source.getByLabel('Chosen kinds').check()
  for (const name of ['Notes', 'Contacts', 'Calls', 'Calendar', 'Saved passwords'])
    await source.getByLabel(name, { exact: true }).check()
  await source.getByRole('button', { name: 'Start reading' }).click()
  await expect(source.getByText('Read done')).toBeVisible()
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s old phone/ }).click()
  await expect(page.getByRole('region', { name: 'Devices of this job' })).toBeVisible()
  await settled(page)
  await page.waitForTimeout(800)
  await shot('strata')
  await page.getByRole('link', { name: 'Differences and restore cost' }).click()
  await settled(page)
  await expect(page.getByText(/would be wiped/)).toBeVisible()
  await shot('restore-cost')
  await open(page, `${job}/findings?category=credentials`)
  await page.getByRole('listbox').getByRole('option').first().click()
  await page.waitForTimeout(500)
  await shot('credentials')
  await open(page, '/profiles')
  await page.getByRole('button', { name: 'Try it' }).click()
  await expect(page.getByRole('table')).toBeVisible()
  await shot('mapping-profiles')
  await open(page, `${job}/answer`)
  await page.waitForTimeout(500)
  await shot('answer')
  await open(page, '/jobs/new')
  await page.getByText('All kinds').click()
  await shot('new-job')
}

/** Devices and the cloud. */
async function takeElsewhere(page: Page, job: string, shot: Shot): Promise<void> {
  await open(page, '/bay')
  await expect(page.getByText('does not answer')).toBeVisible()
  await shot('bay')
  await open(page, `${job}/sources`)
  const cloud = page.getByRole('region', { name: 'Cloud account' })
  await cloud.getByLabel('Account', { exact: true }).fill('odile@theatre.example')
  await cloud.getByLabel('Password of the account').fill('curtain call')
  await page.keyboard.press('Enter')
  await cloud.getByLabel('Code', { exact: true }).fill('271828')
  await page.keyboard.press('Enter')
  await cloud.getByRole('button', { name: /Add: state of 2026-10-03/ }).click()
  await expect(page.getByText('To download')).toBeVisible()
  await page.evaluate(async (id) => {
    const headers = { 'content-type': 'application/json' }
    const body = JSON.stringify({ udid: '00008110-0007A5C22E8B401E' })
    await fetch(`/api/jobs/${id}/devices`, { method: 'POST', headers, body })
  }, job.split('/').at(-1))
  await open(page, `${job}/sources`)
  await page.waitForTimeout(1500)
  await shot('cloud')
}

/** The states of two devices in a place of copies, checked. */
async function takeCopies(page: Page, job: string, shot: Shot): Promise<void> {
  await open(page, `${job}/sources`)
  const { id } = await (
    await page.request.post('/api/copies/places', { data: { folder: join(data, 'handovers', 'copies') } })
  ).json()
  const { sources } = await (await page.request.get(`/api${new URL(page.url()).pathname}`)).json()
  for (const source of sources.filter((one: { info: { kind: string } }) => one.info.kind === 'computer-backup'))
    await page.request.post(`/api/copies/places/${id}/tasks`, { data: { kind: 'copy', source: source.id } })
  const weekly = { udid: PHONE, part: 'media', everyDays: 7 }
  await page.request.post(`/api/copies/places/${id}/regular`, { data: weekly })
  await open(page, '/copies')
  const work = page.getByRole('region', { name: 'Work on copies' })
  await expect(page.getByRole('checkbox', { name: /^The copy of/ })).toHaveCount(4)
  await page.getByRole('button', { name: 'Check all' }).click()
  await expect(work.getByText(/^Every sum is right/)).toBeVisible()
  await page.getByRole('checkbox', { name: 'The copy of 2026-10-20' }).check()
  await shot('safe-copies')
}
