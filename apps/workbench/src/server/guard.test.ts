import { describe, expect, it } from 'vitest'
import { refusal } from './guard.js'

const ask = (method: string, headers: Record<string, string>) =>
  refusal({ method, headers: { host: '127.0.0.1:4680', ...headers } }, 4680)?.status

describe('the guard before every request', () => {
  it.each([
    ['our own name', { host: '127.0.0.1:4680' }],
    ['our other name', { host: 'localhost:4680' }],
  ])('answers %s', (_, headers) => {
    expect(ask('GET', headers)).toBeUndefined()
  })

  it.each([
    'evil.example',
    '127.0.0.1',
    '127.0.0.1:80',
    'localhost:4681',
    '127.0.0.1:4680.evil.example',
    '[::1]:4680',
    '',
  ])('refuses the name "%s"', (host) => {
    expect(ask('GET', { host })).toBe(421)
    expect(ask('POST', { host })).toBe(421)
  })

  it.each([
    ['its own page', { origin: 'http://127.0.0.1:4680' }, undefined],
    ['a program without a page', {}, undefined],
    ['the address bar', { 'sec-fetch-site': 'none' }, undefined],
    ['another site', { origin: 'http://evil.example' }, 403],
    ['another port of this computer', { origin: 'http://127.0.0.1:3000' }, 403],
    ['our other name', { origin: 'http://localhost:4680' }, 403],
    ['a page that hides where it is from', { origin: 'null' }, 403],
    ['a secure look-alike', { origin: 'https://127.0.0.1:4680' }, 403],
    ['another site without Origin', { 'sec-fetch-site': 'cross-site' }, 403],
    ['a neighbour without Origin', { 'sec-fetch-site': 'same-site' }, 403],
  ])('a change asked by %s', (_, headers, status) => {
    for (const method of ['POST', 'PUT', 'DELETE', 'PROPFIND'])
      expect(ask(method, headers as Record<string, string>)).toBe(status)
  })
})
