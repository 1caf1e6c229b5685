import { MemorySource } from '@lumbrin/core/io/source'
import { describe, expect, it } from 'vitest'
import { parseRange, serveContent } from './stream.js'

// The examples of RFC 9110, section 14.1.2, for a file of 10,000 bytes, and what is no range.
describe('ranges', () => {
  it.each([
    ['bytes=0-499', { kind: 'part', start: 0, end: 500 }],
    ['bytes=500-999', { kind: 'part', start: 500, end: 1000 }],
    ['bytes=-500', { kind: 'part', start: 9500, end: 10000 }],
    ['bytes=9500-', { kind: 'part', start: 9500, end: 10000 }],
    ['bytes=0-99999', { kind: 'part', start: 0, end: 10000 }],
    ['bytes=-99999', { kind: 'part', start: 0, end: 10000 }],
    ['bytes=10000-', { kind: 'refused' }],
    ['bytes=5-2', { kind: 'refused' }],
    ['bytes=-', { kind: 'whole' }],
    ['bytes=0-1,5-6', { kind: 'whole' }],
    ['lines=0-1', { kind: 'whole' }],
    [null, { kind: 'whole' }],
  ])('%s', (header, expected) => {
    expect(parseRange(header, 10_000)).toEqual(expected)
  })
})

describe('serving a file of a source', () => {
  const serve = (mime: string, name: string, headers: Record<string, string> = {}) =>
    serveContent(new Request('http://127.0.0.1/', { headers }), {
      source: new MemorySource(Buffer.from('0123456789')),
      name,
      mime,
    })

  it('sends the whole, or just the part', async () => {
    const whole = serve('image/jpeg', 'a.jpg')
    expect([whole.status, await whole.text(), whole.headers.get('content-length')]).toEqual([200, '0123456789', '10'])
    const part = serve('image/jpeg', 'a.jpg', { range: 'bytes=2-4' })
    expect([part.status, await part.text(), part.headers.get('content-range')]).toEqual([206, '234', 'bytes 2-4/10'])
    expect(serve('image/jpeg', 'a.jpg', { range: 'bytes=10-' }).status).toBe(416)
  })

  it.each([
    'text/html',
    'image/svg+xml',
    'application/xhtml+xml',
    'text/javascript',
    'application/pdf',
    'image/jpeg; charset=x',
  ])('never lets the browser run %s', (mime) => {
    const { headers } = serve(mime, 'x')
    expect(headers.get('content-type')).toBe('application/octet-stream')
    expect(headers.get('content-disposition')).toMatch(/^attachment;/)
    expect(headers.get('content-security-policy')).toContain('sandbox')
  })

  it('carries any name without breaking out of its header', () => {
    const { headers } = serve('image/png', 'ein "Bild"\r\nx: 1 ü.png')
    expect(headers.get('content-disposition')).toBe(
      "inline; filename*=UTF-8''ein%20%22Bild%22%0D%0Ax%3A%201%20%C3%BC.png",
    )
  })
})
