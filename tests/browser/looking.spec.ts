import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, firstJobRead, open, settled, test } from './steps.js'

test('findings are laid out by days, on a map, and in lists of chosen columns', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=messages&layout=days`)
  const day = page.getByRole('table').getByRole('button').first()
  await day.click()
  await expect(day).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByRole('listbox').getByRole('option').first()).toBeVisible()
  await expectAccessible(page)

  await open(page, `${job}/findings?category=photos`)
  await page.getByLabel('Layout').selectOption('Map')
  const place = page.locator('svg [role=button]').last()
  await place.focus()
  await page.keyboard.press('Enter')
  const list = page.getByRole('list', { name: 'Findings at this place' })
  const title = await list.getByRole('button').first().innerText()
  await list.getByRole('button').first().click()
  await expect(page.getByRole('complementary', { name: 'Inspector' })).toContainText(title.trim())
  await expectAccessible(page)

  await open(page, `${job}/findings?category=messages&layout=list`)
  await page.getByRole('button', { name: 'Columns' }).click()
  await page.getByLabel('Service').check()
  await expect(page.getByText('Service', { exact: true })).toHaveCount(2)
  await page.getByRole('button', { name: 'Title' }).click()
  await page.reload()
  await settled(page)
  await expect(page).toHaveURL(/order=title/)
  await expect(page.getByRole('button', { name: 'Title' })).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByText('Service', { exact: true })).toHaveCount(1)
})

test('a view is kept, found again and forgotten', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=notes&standings=binned&layout=list`)
  await page.getByRole('button', { name: 'Views', exact: true }).click()
  await page.getByLabel('Name of this view').fill('Notes in the bin')
  await page.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: 'Notes in the bin', exact: true })).toBeVisible()
  await open(page, `${job}/findings?category=photos`)
  await page.getByRole('button', { name: 'Views', exact: true }).click()
  await page.getByRole('button', { name: 'Notes in the bin', exact: true }).click()
  await expect(page).toHaveURL(/category=notes.*standings=binned/)
  await page.getByRole('button', { name: 'Forget the view Notes in the bin' }).click()
  await expect(page.getByText('No view was kept yet.')).toBeVisible()
})

test('a stretch of findings is chosen with Shift, by mouse and by keyboard', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=messages&layout=list&standings=binned`)
  const option = page.getByRole('listbox').getByRole('option')
  await option.nth(1).click()
  await option.nth(4).click({ modifiers: ['Shift'] })
  for (const i of [1, 2, 3, 4]) await expect(option.nth(i)).toHaveAttribute('aria-selected', 'true')
  await expect(option.nth(0)).toHaveAttribute('aria-selected', 'false')
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Shift+ArrowDown')
  await expect(option.nth(5)).toHaveAttribute('aria-selected', 'true')
  await open(page, `${job}/tray`)
  await expect(page.getByRole('region', { name: 'Messages' })).toContainText('5, ')
  await page.getByRole('button', { name: 'Take all out of the tray: Messages' }).click()
})

test('every change of the tray says what it did, and is undone', async ({ page }) => {
  const job = await firstJobRead(page)
  const tray = page.getByRole('navigation', { name: 'Job', exact: true }).getByRole('link', { name: /^Tray/ })
  await open(page, `${job}/tray`)
  const before = (await tray.textContent()) ?? ''
  await open(page, `${job}/findings?category=messages&layout=list`)
  const option = page.getByRole('listbox').getByRole('option')
  await option.first().click()
  const inspector = page.getByRole('complementary', { name: 'Inspector' })
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await expect(page.getByText(/^[\d,]+ put in the tray/)).toBeVisible()
  await expect(inspector.getByRole('button', { name: 'Take out of the tray' })).toBeVisible()
  // Nothing is left to choose, here; elsewhere there is.
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await expect(page.getByText('All of these were in the tray already')).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Close this note' }).click()
  await page.getByRole('button', { name: /^Pictures and sound/ }).click()
  await expect(option.first()).toHaveAttribute('aria-selected', 'false')
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await expect(option.first()).toHaveAttribute('aria-selected', 'true')
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Control+z')
  await expect(option.first()).toHaveAttribute('aria-selected', 'false')
  // One step after the other, as deep as one went.
  await page.keyboard.press('Control+z')
  await expect(tray).toHaveText(before)
  await open(page, `${job}/findings?category=messages&layout=list`)
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await expect(page.getByText(/^[\d,]+ put in the tray/)).toBeVisible()
  await open(page, `${job}/tray`)
  await page.getByRole('button', { name: 'Take all out of the tray: Messages' }).click()
  await expect(page.getByText(/Messages: [\d,]+ taken out/)).toBeVisible()
  await page.getByRole('button', { name: 'undo', exact: true }).click()
  await expect(page.getByRole('region', { name: 'Messages' })).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Take all out of the tray: Messages' }).click()
  await expect(tray).toHaveText(before)
})

test('a finding that goes into the tray before all of it is loaded can be taken out where it is looked at', async ({
  page,
}) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=photos`)
  // What is known of it was asked for before the change, and comes after it.
  const changed = page.waitForResponse((response) => response.url().endsWith('/tray'))
  await page.route(
    /\/api\/findings\/\d+$/,
    async (route) => {
      const response = await route.fetch()
      await changed
      await route.fulfill({ response })
    },
    { times: 1 },
  )
  await page.getByRole('listbox').getByRole('option').nth(7).click()
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Space')
  const inspector = page.getByRole('complementary', { name: 'Inspector' })
  await expect(inspector.getByText(/^Seen/)).toBeVisible()
  await inspector.getByRole('button', { name: 'Take out of the tray' }).click()
  await expect(inspector.getByRole('button', { name: 'Put in the tray' })).toBeVisible()
})

/** A job of its own with the demo's newest backup. */
async function jobWithBackup(page: Page): Promise<string> {
  const folder = join(data, 'sources/Backup/00008110-0007A5C22E8B401E')
  return page.evaluate(async (backup) => {
    const send = async (path: string, body: object) => {
      const headers = { 'content-type': 'application/json' }
      return (await fetch(path, { method: 'POST', headers, body: JSON.stringify(body) })).json()
    }
    const { id } = await send('/api/jobs', { owner: 'Copies case', categories: ['photos'] })
    await send(`/api/jobs/${id}/sources`, { folder: backup })
    return `/jobs/${id}`
  }, folder)
}

test('pictures are looked at one after the other, enlarged, and beside their copies', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=photos`)
  await page.getByRole('listbox').getByRole('option').nth(2).click()
  await page.getByRole('listbox').focus()
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog')
  const first = (await dialog.getByRole('heading').textContent()) ?? ''
  await page.keyboard.press('ArrowRight')
  await expect(dialog).not.toHaveAccessibleName(first)
  await page.keyboard.press('ArrowLeft')
  await expect(dialog).toHaveAccessibleName(first)
  await page.keyboard.press('+')
  await expect(dialog).toContainText('150 %')
  await expectAccessible(page)
  await page.keyboard.press('Escape')
  // The reader computes fingerprints when it has nothing else to do.
  const copies = page.getByRole('region', { name: 'Copies' })
  const own = await jobWithBackup(page)
  await open(page, `${own}/sources`)
  await page.getByLabel('Chosen kinds').check()
  await page.getByLabel('Message attachments', { exact: true }).check()
  await page.getByLabel('Photos', { exact: true }).check()
  await page.getByLabel('Videos', { exact: true }).check()
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await expect(async () => {
    await open(page, `${own}/findings?category=message-attachments`)
    await page.getByRole('listbox').getByRole('option').first().click()
    await expect(copies).toContainText('the same, byte by byte', { timeout: 3000 })
  }).toPass({ timeout: 240_000 })
  await copies
    .getByRole('button', { name: /^Compare with/ })
    .first()
    .click()
  await expect(page.getByRole('dialog', { name: 'Side by side' }).getByRole('img')).toHaveCount(2)
  await expectAccessible(page)
  await open(page, `${own}/findings?category=videos`)
  await page
    .getByRole('listbox')
    .getByRole('option', { name: /IMG_8000.MOV/ })
    .click()
  const film = page.locator('video')
  await expect(async () => expect(await film.evaluate((video: HTMLVideoElement) => video.duration)).toBe(2)).toPass()
})

test('a document is shown page by page', async ({ page }) => {
  await open(page, '/')
  const job = await jobWithBackup(page)
  await open(page, `${job}/sources`)
  await page.getByLabel('Chosen kinds').check()
  await page.getByLabel('Files in apps', { exact: true }).check()
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await open(page, `${job}/findings?category=app-files`)
  await page.getByRole('option', { name: /autumn programme.pdf/ }).click()
  await expect(page.getByText('Page 1 of 4')).toBeVisible()
  await page.getByRole('button', { name: 'Page after' }).click()
  const canvas = page.getByRole('img', { name: 'autumn programme.pdf, page 2' })
  // Ink: pixels darker than the paper and than the lamp.
  const inked = () =>
    canvas.evaluate((drawn: HTMLCanvasElement) => {
      const { data } = drawn.getContext('2d')?.getImageData(0, 0, drawn.width, drawn.height) ?? { data: [] }
      let dark = 0
      for (let at = 0; at < data.length; at += 4) if ((data[at] ?? 255) < 80) dark++
      return dark
    })
  await expect(async () => expect(await inked()).toBeGreaterThan(200)).toPass()
  await expectAccessible(page)
})

test('a grid has tiles of three sizes, and folds what looks the same', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=photos`)
  const tile = page.getByRole('listbox').getByRole('option').first()
  await expect(tile).toBeVisible()
  const width = async () => (await tile.boundingBox())?.width ?? 0
  const medium = await width()
  await page.getByLabel('Layout').selectOption('Grid, large')
  await expect(async () => expect(await width()).toBeGreaterThan(medium * 1.3)).toPass()
  await page.getByLabel('Layout').selectOption('Grid, small')
  await expect(async () => expect(await width()).toBeLessThan(medium)).toPass()
  await page.getByRole('button', { name: 'fold look-alikes' }).click()
  await expect(page.getByRole('button', { name: 'fold look-alikes' })).toHaveAttribute('aria-pressed', 'true')
  await page.reload()
  await expect(page.getByLabel('Layout')).toHaveValue('grid small')
  expect(page.url()).toContain('folding=true')
  await expect(tile).toBeVisible()
  await expectAccessible(page)
})

test('a package is written in the formats that were chosen, and they are remembered', async ({ page }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/findings?category=messages&standings=binned`)
  await page.getByRole('button', { name: 'Put all in the tray' }).click()
  await expect(page.getByText(/put in the tray/)).toBeVisible()
  await open(page, `${job}/handover`)
  const formats = page.getByRole('row', { name: /Messages/ })
  for (const name of ['pages by conversation', 'CSV']) await formats.getByLabel(name).uncheck()
  await expect(page.getByRole('button', { name: 'Write the package' })).toBeDisabled()
  await formats.getByLabel('JSON Lines').check()
  await page.getByRole('button', { name: 'Choose the folder', exact: true }).click()
  const picker = page.getByRole('dialog', { name: 'Choose a folder' })
  await picker.getByRole('button', { name: join(data, 'handovers') }).click()
  await expect(picker).toContainText(/free, .* needed/)
  await expectAccessible(page)
  await picker.getByRole('button', { name: /^Write into/ }).click()
  const folder = join(data, 'handovers', 'chosen')
  await page.getByLabel('Folder for the package').fill(folder)
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.locator('[data-handover-state=done]').first()).toContainText(folder)
  expect(readFileSync(join(folder, 'data/messages/messages.jsonl'), 'utf8')).toMatch(/^{"category":"messages",.*}\n/)
  expect(readdirSync(join(folder, 'data/messages'))).toEqual(['messages.jsonl'])
  await page.reload()
  await settled(page)
  await expect(formats.getByLabel('JSON Lines')).toBeChecked()
  await expect(formats.getByLabel('pages by conversation')).not.toBeChecked()
  // A later handover in the usual formats is what is remembered from then on; the same place holds all of it already.
  for (const name of ['pages by conversation', 'CSV']) await formats.getByLabel(name).check()
  await formats.getByLabel('JSON Lines').uncheck()
  await page.getByLabel('Folder for the package').fill(folder)
  await page.getByRole('button', { name: 'Write the package' }).click()
  await expect(page.locator('[data-handover-state=done]')).toHaveCount(2)
  await expect(page.locator('[data-handover-state=done]').first()).toContainText('Nothing new')
})

test('tray and findings are a folder that a general program opens', async ({ page, baseURL, request }) => {
  const job = await firstJobRead(page)
  await open(page, `${job}/tray`)
  await page.getByRole('button', { name: 'Open the folder' }).click()
  const section = page.getByRole('region', { name: 'Network folder' })
  await expect(section.locator('dd')).toHaveCount(3)
  const [address = '', user = '', password = ''] = await section.locator('dd').allInnerTexts()
  await expectAccessible(page)

  // RFC 4918, sections 9.1 and 18: 207 for PROPFIND, and a compliance class for OPTIONS.
  expect((await request.fetch(address, { method: 'PROPFIND', headers: { depth: '1' } })).status()).toBe(401)
  const wrong = { authorization: `Basic ${Buffer.from(`${user}:${password}x`).toString('base64')}` }
  expect((await request.fetch(address, { headers: wrong })).status()).toBe(401)
  const right = { authorization: `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}` }
  const options = await request.fetch(address, { method: 'OPTIONS', headers: right })
  expect(options.headers().dav).toBe('1')
  expect((await request.fetch(address, { method: 'PROPFIND', headers: { ...right, depth: '1' } })).status()).toBe(207)
  for (const method of ['PUT', 'DELETE', 'MKCOL', 'MOVE', 'LOCK', 'PROPPATCH'])
    expect((await request.fetch(`${address}Findings/`, { method, headers: right })).status()).toBe(405)
  for (const path of ['nothing', 'Findings/Photos/../../../api', 'Findings/Photos/2026-13', 'Tray/%2e%2e/x'])
    expect((await request.fetch(`${address}${path}`, { headers: right })).status()).toBeGreaterThan(400)

  // Debian's cadaver, a general WebDAV client.
  const home = mkdtempSync(join(tmpdir(), 'lumbrin-dav-'))
  try {
    writeFileSync(
      join(home, '.netrc'),
      `machine ${new URL(baseURL ?? '').hostname}\nlogin ${user}\npassword ${password}\n`,
      {
        mode: 0o600,
      },
    )
    const run = (...commands: string[]) =>
      execFileSync('cadaver', [address], {
        input: `${commands.join('\n')}\n`,
        cwd: home,
        env: { ...process.env, HOME: home },
        encoding: 'utf8',
      })
    expect(run('ls')).toMatch(/Coll:\s+Findings/)
    const months = run('cd Findings/Photos', 'ls').match(/\d{4}-\d\d(?=\s)/g) ?? []
    expect(months.length).toBeGreaterThan(3)
    const names = run(`cd Findings/Photos/${months[0]}`, 'ls').match(/\S+\.JPG/g) ?? []
    run(`cd Findings/Photos/${months[0]}`, `get ${names[0]} picture.jpg`, 'cd ../../Messages', 'get Messages.csv')
    expect(execFileSync('exiftool', ['-s3', '-FileType', join(home, 'picture.jpg')], { encoding: 'utf8' })).toBe(
      'JPEG\n',
    )
    expect(readFileSync(join(home, 'Messages.csv'), 'utf8').split('\r\n').length).toBeGreaterThan(10)
    // Debian's rclone, which copies folders and holds sizes and bytes against each other.
    const rclone = (...words: string[]) =>
      execFileSync('rclone', words, { env: { ...process.env, HOME: home }, encoding: 'utf8', stdio: 'pipe' })
    const hidden = rclone('obscure', password).trim()
    const remote = `:webdav,url='${address}',user=${user},pass=${hidden}:Findings`
    rclone('copy', remote, join(home, 'copied'))
    rclone('check', remote, join(home, 'copied'))
    rclone('check', '--download', `${remote}/Messages`, join(home, 'copied/Messages'))
    expect(readdirSync(join(home, 'copied/Photos')).length).toBeGreaterThan(3)
  } finally {
    rmSync(home, { recursive: true })
  }
  await page.getByRole('button', { name: 'Close the folder' }).click()
  await expect(page.getByRole('button', { name: 'Open the folder' })).toBeVisible()
  expect((await request.fetch(address, { headers: right })).status()).toBe(401)
})
