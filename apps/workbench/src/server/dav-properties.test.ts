import { DOMParser } from '@xmldom/xmldom'
import { describe, expect, it } from 'vitest'
import type { FindingId } from '../domain/ids.js'
import { askedIn, responseOf } from './dav-properties.js'

const file = {
  name: 'seat <plan>.txt',
  kind: 'file' as const,
  bytes: 15,
  mime: 'text/plain',
  modifiedAt: new Date('2026-11-14T20:15:00Z'),
  finding: 7 as FindingId,
}

/** Names and values by status, as a client reads them. */
function read(response: string): Record<string, string[]> {
  const document = new DOMParser().parseFromString(
    `<D:multistatus xmlns:D="DAV:">${response}</D:multistatus>`,
    'text/xml',
  )
  const parts: Record<string, string[]> = {}
  for (const part of document.getElementsByTagNameNS('DAV:', 'propstat')) {
    const status = part.getElementsByTagNameNS('DAV:', 'status')[0]?.textContent?.split(' ')[1] ?? ''
    const prop = part.getElementsByTagNameNS('DAV:', 'prop')[0]
    parts[status] = [...(prop?.childNodes ?? [])].map(
      (one) => `${one.namespaceURI === 'DAV:' ? '' : `${one.namespaceURI} `}${one.localName}=${one.textContent}`,
    )
  }
  return parts
}

const propfind = (inner: string) => `<?xml version="1.0"?><p:propfind xmlns:p="DAV:">${inner}</p:propfind>`

describe('what a client asks for', () => {
  it.each([
    ['', 'all'],
    [propfind('<p:allprop/>'), 'all'],
    [propfind('<p:allprop/><p:include><p:supported-live-property-set/></p:include>'), 'all'],
    [propfind('<p:propname/>'), 'names'],
  ])('%s', (body, asked) => {
    expect(askedIn(body)).toBe(asked)
  })

  it('is told by namespace, whatever its prefixes are', () => {
    const body = propfind('<p:prop><p:getetag/><colour xmlns="urn:puppets"/><p:displayname/></p:prop>')
    expect(askedIn(body)).toEqual([
      { space: 'DAV:', name: 'getetag' },
      { space: 'urn:puppets', name: 'colour' },
      { space: 'DAV:', name: 'displayname' },
    ])
  })

  it.each([
    ['no XML', 'seven strings'],
    ['cut XML', propfind('<p:prop>').slice(0, 60)],
    ['another question', '<x xmlns="urn:x"/>'],
    ['no question', propfind('')],
  ])('is not known from %s', (_, body) => {
    expect(askedIn(body)).toBeUndefined()
  })

  it('costs no more for a document that is made to grow', () => {
    const grown = `<!DOCTYPE p [<!ENTITY a "${'x'.repeat(50)}"><!ENTITY b "${'&a;'.repeat(50)}">]>${propfind('<p:prop>&b;</p:prop>')}`
    expect(askedIn(grown) ?? []).toEqual([])
    expect(askedIn(propfind(`<p:prop>${'<p:a/>'.repeat(5000)}</p:prop>`))).toHaveLength(100)
  })
})

describe('the answer for a file', () => {
  it('has what was asked for, and names what there is not (RFC 4918, section 9.1)', () => {
    const asked = askedIn(
      propfind('<p:prop><p:getcontentlength/><p:quota-used-bytes/><c xmlns="urn:&quot;&lt;x"/></p:prop>'),
    )
    const parts = read(responseOf('/dav/1/a', file, asked ?? 'all'))
    expect(parts['200']).toEqual(['getcontentlength=15'])
    expect(parts['404']).toEqual(['quota-used-bytes=', 'urn:"<x c='])
  })

  it('has everything that there is, with names escaped', () => {
    expect(read(responseOf('/dav/1/a', file, 'all'))).toEqual({
      200: [
        'displayname=seat <plan>.txt',
        'resourcetype=',
        'getcontentlength=15',
        'getcontenttype=text/plain',
        'getlastmodified=Sat, 14 Nov 2026 20:15:00 GMT',
        'getetag="7-15"',
      ],
    })
  })

  it('has names alone, where these were asked for', () => {
    const folder = { name: 'Tray', kind: 'folder' as const }
    expect(read(responseOf('/dav/1/', folder, 'names'))).toEqual({ 200: ['displayname=', 'resourcetype='] })
    expect(read(responseOf('/dav/1/', folder, []))).toEqual({ 200: [] })
  })
})
