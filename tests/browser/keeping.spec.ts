import { expect, open, test } from './steps.js'

test('a source is renamed and taken out, and what it alone showed goes with it', async ({ page }) => {
  const { id } = await (await page.request.post('/api/jobs', { data: { owner: 'Leda Novak' } })).json()
  await open(page, `/jobs/${id}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s old phone/ }).click()
  const source = page.getByRole('article')
  await source.getByRole('button', { name: 'Rename' }).click()
  await page.getByLabel('Name of this source').fill('The drawer phone')
  await page.getByRole('dialog').getByRole('button', { name: 'Rename' }).click()
  await expect(page.getByRole('article', { name: 'The drawer phone' })).toBeVisible()
  await source.getByRole('button', { name: 'Start reading' }).click()
  await expect(source.getByText('Read done')).toBeVisible()
  await source.getByRole('button', { name: 'Remove from the job' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText(
    /[\d,]+ findings that no other source shows are removed; none of them is in the tray/,
  )
  await dialog.getByRole('button', { name: 'Remove it' }).click()
  await expect(page.getByText('This job has no source yet.')).toBeVisible()
  await expect
    .poll(async () => Object.keys(await (await page.request.get(`/api/jobs/${id}/facets`)).json()).length)
    .toBe(0)
  // The backup itself is as it was: it can be added again.
  await page.getByRole('button', { name: /^Add Odile’s old phone/ }).click()
  await expect(page.getByRole('article', { name: 'Odile’s old phone' })).toBeVisible()
})

test('everything with one person goes into the tray, and an item is noted to', async ({ page }) => {
  const { id } = await (
    await page.request.post('/api/jobs', { data: { owner: 'Leda Novak', categories: ['messages'] } })
  ).json()
  const job = `/jobs/${id}`
  await open(page, `${job}/sources`)
  await page.getByRole('button', { name: /^Add Odile’s phone, state of 2026-11-14/ }).click()
  await page.getByRole('button', { name: 'Start reading' }).click()
  await expect(page.getByText('Read done')).toBeVisible()
  await open(page, `${job}/findings?category=messages&layout=list&words=from:"Bram Okafor"`)
  await page.getByRole('listbox').getByRole('option').first().click()
  await page.getByRole('link', { name: 'Everything with Bram Okafor' }).click()
  const list = page.getByRole('listbox', { name: 'Everything with Bram Okafor' })
  await expect(list.getByRole('option').first()).toBeVisible()
  await page.getByRole('button', { name: 'Lost', exact: true }).click()
  await page.getByRole('button', { name: /^Put [\d,]+ items? in the tray$/ }).click()
  await expect(list.getByRole('option', { selected: true }).first()).toBeVisible()
  await open(page, `${job}/tray`)
  const messages = page.getByRole('region', { name: 'Messages', exact: true })
  await messages
    .getByRole('button', { name: /^Note: / })
    .first()
    .click()
  await messages.getByRole('textbox').fill('Ask Odile about this one')
  await messages.getByRole('button', { name: 'Save the note' }).click()
  await expect(messages.getByText('Note: Ask Odile about this one')).toBeVisible()
  await page.reload()
  await expect(messages.getByText('Note: Ask Odile about this one')).toBeVisible()
})
