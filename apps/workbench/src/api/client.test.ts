import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { addressOf, ask, askLines } from './client.js'

let server: Server
const real = globalThis.fetch
let answer: (response: ServerResponse, request: IncomingMessage) => void

beforeEach(async () => {
  server = createServer((request, response) => answer(response, request))
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready))
  const { port } = server.address() as AddressInfo
  // In a browser an address without a host is one of the page's own server.
  globalThis.fetch = (address, init) => real(`http://127.0.0.1:${port}${address}`, init)
})

afterEach(() => {
  globalThis.fetch = real
  server.closeAllConnections()
  server.close()
})

describe('an answer of the server', () => {
  test('is handed on as it is', async () => {
    answer = (response) => response.end('[1,null]')
    expect(await ask('GET /api/jobs')).toEqual([1, null])
    answer = (response) => response.writeHead(204).end()
    expect(await ask('DELETE /api/sources/{source}/lock', { path: { source: 1 } })).toBe(null)
    answer = (response) => response.writeHead(202).end()
    expect(await ask('POST /api/bay/{udid}/trust', { path: { udid: 'a' } })).toBe(null)
  })

  test('that says what went wrong is thrown in its words', async () => {
    answer = (response) => response.writeHead(409).end('{"error":{"message":"It is being read."}}')
    await expect(ask('GET /api/jobs')).rejects.toThrow('It is being read.')
    answer = (response) => response.writeHead(502).end('<html>')
    await expect(ask('POST /api/bay/{udid}/trust', { path: { udid: 'a' } })).rejects.toThrow(
      'The server answered with 502',
    )
  })

  test('that breaks off is no empty answer', async () => {
    answer = (response) => {
      response.writeHead(200, { 'content-length': 100 }).write('[1,2')
      setTimeout(() => response.destroy(), 20)
    }
    await expect(ask('GET /api/jobs')).rejects.toThrow('broke off')
  })

  test('that was given up while it came is never handed on', async () => {
    const stop = new AbortController()
    answer = (response) => {
      response.writeHead(200).write('[1,2')
      setTimeout(() => stop.abort(), 20)
    }
    await expect(ask('GET /api/jobs', { signal: stop.signal })).rejects.toThrow('aborted')
  })

  test('that does not come says that the server is away', async () => {
    await new Promise((closed) => server.close(closed))
    await expect(ask('GET /api/jobs')).rejects.toThrow('does not answer')
  })
})

describe('a request', () => {
  test('has its parts in their places', async () => {
    const seen: unknown[] = []
    answer = async (response, request) => {
      const body: string[] = []
      for await (const piece of request) body.push(String(piece))
      const { method, url, headers } = request
      seen.push([method, url, headers['content-type'], headers['if-match'], body.join('')])
      response.end('{}')
    }
    await ask('GET /api/jobs/{job}/facets', { path: { job: 7 }, query: { words: 'two words' } })
    await ask('PUT /api/settings', { body: { searchFolders: [], allowedRoots: ['/a'] }, version: '0123456789abcdef' })
    await ask('PUT /api/jobs/{job}/brought/{name}', {
      path: { job: 7, name: 'A/B' },
      query: { path: 'Info.plist' },
      body: new Blob(['bytes']),
    })
    expect(seen).toEqual([
      ['GET', '/api/jobs/7/facets?words=two+words', undefined, undefined, ''],
      ['PUT', '/api/settings', 'application/json', '"0123456789abcdef"', '{"searchFolders":[],"allowedRoots":["/a"]}'],
      ['PUT', '/api/jobs/7/brought/A%2FB?path=Info.plist', undefined, undefined, 'bytes'],
    ])
  })

  test('leaves out what is not said', () => {
    expect(addressOf('GET /api/backups', { query: { folder: null } })).toBe('/api/backups')
    expect(addressOf('GET /api/findings/{finding}/thumbnail', { path: { finding: 3 }, query: { size: 'large' } })).toBe(
      '/api/findings/3/thumbnail?size=large',
    )
  })

  test('for lines hands on each as it comes, whatever the pieces are', async () => {
    answer = (response) => {
      response.write('{"folder":"/a","seen":1}\n{"fol')
      setTimeout(() => response.end('der":"/b","seen":2}\n'), 10)
    }
    const lines: unknown[] = []
    await askLines('GET /api/backups', { query: {}, signal: new AbortController().signal }, (line) => lines.push(line))
    expect(lines).toEqual([
      { folder: '/a', seen: 1 },
      { folder: '/b', seen: 2 },
    ])
  })
})
