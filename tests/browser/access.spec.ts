import { readFileSync } from 'node:fs'
import { request } from 'node:http'
import { join } from 'node:path'
import { data } from '../../playwright.config.js'
import { expect, expectAccessible, open, test } from './steps.js'

// A browser that was not let in yet.
test.use({ storageState: { cookies: [], origins: [] }, extraHTTPHeaders: {} })

/** The address that lets the next browser in, as `npm run open` prints it. */
const nextAddress = () => readFileSync(join(data, 'address'), 'utf8').trim()

/** The status of an answer to a request with exactly these headers. */
function statusOf(base: string, method: string, path: string, headers: Record<string, string>, body?: string) {
  const { port } = new URL(base)
  return new Promise<number | undefined>((resolve, reject) => {
    request({ host: '127.0.0.1', port, method, path, headers }, (response) => {
      response.resume()
      resolve(response.statusCode)
    })
      .on('error', reject)
      .end(body)
  })
}

test('a browser sees nothing before it is let in, is let in once by an address, and locks itself', async ({
  page,
  baseURL,
}) => {
  const base = baseURL ?? ''
  for (const path of ['/', '/jobs/1/findings', '/bay', '/settings']) {
    const answer = await page.goto(path)
    expect(answer?.status()).toBe(401)
    await expect(page.getByRole('heading', { name: 'This browser has not been let in' })).toBeVisible()
    expect(await page.content()).not.toContain('Odile')
  }
  await expectAccessible(page)
  expect((await page.goto(`${base}/enter?key=guessed`))?.status()).toBe(401)
  const address = nextAddress()
  await page.goto(address)
  await expect(page.getByRole('heading', { name: 'Jobs' })).toBeVisible()
  expect(page.url()).not.toContain('key=')
  const [cookie] = await page.context().cookies()
  expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Strict' })
  // Used once, it lets nobody else in.
  expect(await statusOf(base, 'GET', address.replace(base, ''), {})).toBe(401)
  await open(page, '/settings')
  await page.getByRole('button', { name: 'Lock this browser' }).click()
  await expect(page.getByRole('heading', { name: 'This browser has not been let in' })).toBeVisible()
  expect((await page.goto('/'))?.status()).toBe(401)
})

test('the server answers this computer only, and no other site', async ({ page, baseURL }) => {
  const base = baseURL ?? ''
  await page.goto(nextAddress())
  const [cookie] = await page.context().cookies()
  const session = { cookie: `${cookie?.name}=${cookie?.value}` }
  const ask = (method: string, headers: Record<string, string>, path = '/api/jobs') =>
    statusOf(base, method, path, { ...session, ...headers }, method === 'POST' ? '{}' : undefined)
  const { port } = new URL(base)
  const json = { 'content-type': 'application/json' }
  expect(await ask('GET', {})).toBe(200)
  expect(await ask('GET', { host: 'evil.example' })).toBe(421)
  expect(await ask('GET', { host: `127.0.0.1.evil.example:${port}` })).toBe(421)
  expect(await ask('GET', { 'sec-fetch-site': 'cross-site' })).toBe(403)
  expect(await ask('POST', { origin: 'http://evil.example' })).toBe(403)
  expect(await ask('POST', { origin: 'http://127.0.0.1:1' })).toBe(403)
  expect(await ask('POST', json)).toBe(403)
  expect(await ask('POST', { origin: `http://127.0.0.1:${port}`, ...json })).toBe(400)
  // Names that every object has are no actions and no folders.
  const ours = { origin: `http://127.0.0.1:${port}` }
  for (const path of ['/api/reads/1/constructor', '/api/reads/1/__proto__', '/api/reads/1/toString'])
    expect(await ask('POST', ours, path)).toBe(404)
  expect(await ask('GET', {}, '/_image?href=%2Fa.png&w=99999')).toBe(404)
})

test('a body is counted as it comes, whatever it announces', async ({ page, baseURL }) => {
  const base = baseURL ?? ''
  await page.goto(nextAddress())
  const [cookie] = await page.context().cookies()
  const { port } = new URL(base)
  const sent = await new Promise<{ status: number | undefined; bytes: number }>((resolve) => {
    let bytes = 0
    const headers = {
      cookie: `${cookie?.name}=${cookie?.value}`,
      origin: base,
      'content-type': 'application/json',
      'transfer-encoding': 'chunked',
    }
    const asked = request({ host: '127.0.0.1', port, method: 'POST', path: '/api/jobs', headers }, (response) => {
      response.resume()
      asked.destroy()
      resolve({ status: response.statusCode, bytes })
    })
    asked.on('error', () => {})
    const piece = Buffer.alloc(1 << 20, ' ')
    const more = () => {
      if (asked.destroyed || bytes >= 300 << 20) return
      bytes += piece.length
      if (asked.write(piece)) setImmediate(more)
      else asked.once('drain', more)
    }
    more()
  })
  expect(sent.status).toBe(400)
  expect(sent.bytes).toBeLessThan(100 << 20)
})
