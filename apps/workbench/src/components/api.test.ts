import { createServer, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { fetchJson, sendJson } from './api.js'

let server: Server
let address: string
let answer: (response: ServerResponse) => void

beforeEach(async () => {
  server = createServer((_, response) => answer(response))
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready))
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`
})

afterEach(() => {
  server.closeAllConnections()
  server.close()
})

describe('an answer of the server', () => {
  test('is handed on as it is', async () => {
    answer = (response) => response.end('[1,null]')
    expect(await fetchJson(address)).toEqual([1, null])
    answer = (response) => response.writeHead(204).end()
    expect(await sendJson('DELETE', address, {})).toBe(null)
    answer = (response) => response.writeHead(202).end()
    expect(await sendJson('POST', address, {})).toBe(null)
  })

  test('that says what went wrong is thrown in its words', async () => {
    answer = (response) => response.writeHead(409).end('{"error":{"message":"It is being read."}}')
    await expect(fetchJson(address)).rejects.toThrow('It is being read.')
    answer = (response) => response.writeHead(502).end('<html>')
    await expect(sendJson('POST', address, {})).rejects.toThrow('The server answered with 502')
  })

  test('that breaks off is no empty answer', async () => {
    answer = (response) => {
      response.writeHead(200, { 'content-length': 100 }).write('[1,2')
      setTimeout(() => response.destroy(), 20)
    }
    await expect(fetchJson(address)).rejects.toThrow('broke off')
  })

  test('that was given up while it came is never handed on', async () => {
    const stop = new AbortController()
    answer = (response) => {
      response.writeHead(200).write('[1,2')
      setTimeout(() => stop.abort(), 20)
    }
    await expect(fetchJson(address, stop.signal)).rejects.toThrow('aborted')
  })

  test('that does not come says that the server is away', async () => {
    await new Promise((closed) => server.close(closed))
    await expect(fetchJson(address)).rejects.toThrow('does not answer')
  })
})
