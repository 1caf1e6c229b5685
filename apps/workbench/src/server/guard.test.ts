import { describe, expect, it } from 'vitest'
import { refusal } from './guard.js'

const ask = (method: string, headers: Record<string, string>, url = '/', ours = false) =>
  refusal({ method, url, headers: { host: '127.0.0.1:4680', ...headers } }, 4680, ours)?.status

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
    ['a page of ours without Origin', { 'sec-fetch-site': 'same-origin' }, undefined],
    ['who does not say from where', {}, 403],
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

  it.each([
    ['another site', { origin: 'http://evil.example' }],
    ['another port of this computer', { origin: 'http://127.0.0.1:3000' }],
    ['a picture in another site', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' }],
    ['a link in another site', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' }],
    ['a neighbour', { 'sec-fetch-site': 'same-site' }],
  ])('shows nothing to %s', (_, headers) => {
    for (const method of ['GET', 'HEAD', 'OPTIONS']) expect(ask(method, headers as Record<string, string>)).toBe(403)
  })

  it('lets our own programs change things, which are no pages', () => {
    expect(ask('POST', {}, '/api/jobs', true)).toBeUndefined()
    expect(ask('POST', { origin: 'http://evil.example' }, '/api/jobs', true)).toBe(403)
  })

  it('lets file managers ask the shared folder, which has a password of its own', () => {
    expect(ask('PROPFIND', {}, '/dav/1/')).toBeUndefined()
    expect(ask('PROPFIND', { origin: 'http://evil.example' }, '/dav/1/')).toBe(403)
    expect(ask('PROPFIND', {}, '/dave/1/')).toBe(403)
  })
})
