import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { browserState, data } from '../../playwright.config.js'

/** Lets the tests' browser in, as a user does: by the address that the start printed. */
export default async function enter(): Promise<void> {
  const address = readFileSync(join(data, 'address'), 'utf8').trim()
  const answer = await fetch(address, { redirect: 'manual' })
  const [, name = '', value = ''] = /^([^=]+)=([^;]+)/.exec(answer.headers.get('set-cookie') ?? '') ?? []
  if (value === '') throw new Error(`the address that lets browsers in answered ${answer.status}`)
  const cookie = { name, value, domain: '127.0.0.1', path: '/', expires: -1, httpOnly: true, secure: false }
  writeFileSync(browserState, JSON.stringify({ cookies: [{ ...cookie, sameSite: 'Strict' }], origins: [] }))
}
