import { createServer, type IncomingMessage, type RequestOptions, request as send } from 'node:http'
import { type AddressInfo, connect } from 'node:net'
import { Readable } from 'node:stream'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it, onTestFinished } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { Access } from './access.js'
import { passes } from './door.js'
import { limitClients, textWithin } from './limits.js'

const SECRET = 's'.repeat(64)

interface Answer {
  status: number
  text: string
  headers: IncomingMessage['headers']
}

/** A server behind the door, which says what got through; and how to ask it. */
async function serve(limits = {}) {
  const seen: string[] = []
  const told: string[] = []
  let access: Access | undefined
  let port = 0
  const server = createServer({ connectionsCheckingInterval: 50 }, (request, response) => {
    if (!access) throw new Error('the server is asked before it is ready')
    passes(request, response, { access, port, secret: SECRET })
      .then(async (allowed) => {
        if (!allowed) return
        seen.push(`${request.method} ${request.url}`)
        told.push(decodeURIComponent(String(request.headers['x-lumbrin-operator'] ?? '')))
        for await (const _ of request);
        response.end('inside')
      })
      .catch(() => response.destroy())
  })
  limitClients(server, limits)
  await new Promise<void>((go) => server.listen(0, '127.0.0.1', go))
  onTestFinished(() => {
    server.closeAllConnections()
    server.close()
  })
  port = (server.address() as AddressInfo).port
  access = new Access(port, scratchFolder(), { load: async () => [], save: async () => {} })
  await access.open()
  const key = () => new URL(access?.address ?? '').searchParams.get('key') ?? ''
  const ask = (path: string, headers: Record<string, string> = {}, more: RequestOptions & { body?: string } = {}) =>
    new Promise<Answer>((resolve, reject) => {
      const asked = send({ host: '127.0.0.1', port, path, headers, ...more }, (response) => {
        let text = ''
        response.setEncoding('utf8').on('data', (piece) => {
          text += piece
        })
        response.on('end', () => resolve({ status: response.statusCode ?? 0, text, headers: response.headers }))
      })
      asked.on('error', reject).end(more.body)
    })
  const enter = async () => {
    const { headers } = await ask(`/enter?key=${key()}`)
    return { cookie: headers['set-cookie']?.[0]?.split(';')[0] ?? '', origin: `http://127.0.0.1:${port}` }
  }
  return { seen, told, ask, enter, key, port: () => port }
}

describe('whoever was not let in', () => {
  it.each([
    ['list jobs', 'GET', '/api/jobs'],
    ['add a folder of the technician as a source', 'POST', '/api/jobs/1/sources'],
    ['change where handovers may be written', 'PUT', '/api/settings'],
    ['read a picture', 'GET', '/api/findings/1/content'],
    ['listen to a job', 'GET', '/api/jobs/1/events'],
    ['purge', 'POST', '/api/jobs/1/purge'],
    ['open a page', 'GET', '/jobs/1'],
    ['load a script of the application', 'GET', '/_astro/Findings.js'],
    ['get round by dots', 'GET', '/dav/../api/jobs'],
    ['get round by encoded dots', 'GET', '/dav/%2e%2e/api/jobs'],
    ['get round by backslashes', 'GET', '/dav\\..\\api\\jobs'],
    ['get round by a second slash', 'GET', '//api/jobs'],
    ['get round by an absolute address', 'GET', 'http://127.0.0.1/api/jobs'],
    ['get round by the name of the shared folder', 'GET', '/davenport'],
    ['end sessions of others', 'DELETE', '/api/session?all=true'],
  ])('cannot %s', async (_, method, path) => {
    const { seen, ask, port } = await serve()
    const { status, text } = await ask(path, { origin: `http://127.0.0.1:${port()}` }, { method })
    expect(status).toBe(401)
    expect(text).not.toContain('inside')
    expect(seen).toEqual([])
  })

  it.each([
    ['a wrong session', { cookie: `lumbrin-1=${'x'.repeat(43)}` }],
    ['a wrong secret', { 'x-lumbrin-secret': 't'.repeat(64) }],
    ['an empty secret', { 'x-lumbrin-secret': '' }],
    ['the beginning of the secret', { 'x-lumbrin-secret': 's'.repeat(63) }],
    ['a name and password', { authorization: `Basic ${Buffer.from('lumbrin:x').toString('base64')}` }],
  ])('does not get in with %s', async (_, headers) => {
    const { seen, ask } = await serve()
    expect((await ask('/api/jobs', headers as Record<string, string>)).status).toBe(401)
    expect(seen).toEqual([])
  })

  it('is told what to do, in words on a page and in JSON for programs', async () => {
    const { ask } = await serve()
    expect((await ask('/')).text).toContain('npm run open')
    const { error } = JSON.parse((await ask('/api/jobs')).text)
    expect(error).toMatchObject({ code: 'closed', message: expect.stringContaining('npm run open') })
  })
})

describe('a browser that was let in', () => {
  it('gets where it asks to', async () => {
    const { seen, ask, enter } = await serve()
    const { cookie } = await enter()
    expect((await ask('/api/jobs?x=1', { cookie })).text).toBe('inside')
    expect(seen).toEqual(['GET /api/jobs?x=1'])
  })

  it('is led to the jobs, and may open the used address again', async () => {
    const { ask, enter, key } = await serve()
    const used = key()
    const { cookie } = await enter()
    expect(await ask(`/enter?key=${used}`, { cookie })).toMatchObject({ status: 303, headers: { location: '/' } })
    expect((await ask(`/enter?key=${used}`)).status).toBe(401)
  })

  it.each([
    ['on the word of another site', { origin: 'http://evil.example' }],
    ['on the word of another port', { origin: 'http://127.0.0.1:1' }],
    ['on the word of a page that hides', { origin: 'null' }],
    ['without saying from where', {}],
  ])('changes nothing %s', async (_, headers) => {
    const { seen, ask, enter } = await serve()
    const { cookie } = await enter()
    for (const method of ['POST', 'PUT', 'DELETE', 'PATCH'])
      expect((await ask('/api/settings', { cookie, ...headers }, { method })).status).toBe(403)
    expect(seen).toEqual([])
  })

  it('shows nothing to another site', async () => {
    const { seen, ask, enter } = await serve()
    const { cookie } = await enter()
    for (const site of ['cross-site', 'same-site'])
      expect((await ask('/api/findings/1/content', { cookie, 'sec-fetch-site': site })).status).toBe(403)
    expect(seen).toEqual([])
  })

  it('is not answered under another name', async () => {
    const { ask, enter } = await serve()
    const { cookie } = await enter()
    for (const host of ['evil.example', 'localhost', '[::1]:4680', '127.0.0.1.evil.example'])
      expect((await ask('/', { cookie, host })).status).toBe(421)
  })

  it('cannot have pictures scaled in the server', async () => {
    const { ask, enter } = await serve()
    const { cookie } = await enter()
    expect((await ask('/_image?href=/a.png&w=100000&h=100000', { cookie })).status).toBe(404)
  })

  it('locks itself', async () => {
    const { seen, ask, enter } = await serve()
    const { cookie, origin } = await enter()
    const other = await enter()
    expect((await ask('/api/session', { cookie, origin }, { method: 'DELETE' })).status).toBe(204)
    expect((await ask('/api/jobs', { cookie })).status).toBe(401)
    expect((await ask('/api/jobs', { cookie: other.cookie })).status).toBe(200)
    expect((await ask('/api/session', { cookie: other.cookie, origin }, { method: 'POST' })).status).toBe(405)
    expect(seen).toEqual(['GET /api/jobs'])
  })
})

describe('who works at a browser', () => {
  it('is said once, and told to the application from then on', async () => {
    const { told, ask, enter } = await serve()
    const { cookie, origin } = await enter()
    await ask('/api/jobs', { cookie })
    const body = JSON.stringify({ operator: ' Zoë Lindqvist ' })
    expect((await ask('/api/session', { cookie, origin }, { method: 'PUT', body })).status).toBe(204)
    await ask('/api/jobs', { cookie })
    expect(told).toEqual(['', 'Zoë Lindqvist'])
  })

  it('is not what a request says of itself', async () => {
    const { told, ask, enter } = await serve()
    const { cookie } = await enter()
    await ask('/api/jobs', { cookie, 'x-lumbrin-operator': 'somebody else' })
    await ask('/api/jobs', { 'x-lumbrin-secret': SECRET, 'x-lumbrin-operator': 'somebody else' })
    expect(told).toEqual(['', ''])
  })

  it.each([
    ['nothing', ''],
    ['no name', '{"operator":"  "}'],
    ['no text', '{"operator":7}'],
    ['a name without end', `{"operator":"${'x'.repeat(101)}"}`],
    ['a body without end', 'x'.repeat(100_000)],
  ])('is not %s', async (_, body) => {
    const { ask, enter } = await serve()
    const { cookie, origin } = await enter()
    expect((await ask('/api/session', { cookie, origin }, { method: 'PUT', body })).status).toBe(400)
  })
})

describe('other doors', () => {
  it('are the secret of our own programs', async () => {
    const { seen, ask } = await serve()
    const headers = { 'x-lumbrin-secret': SECRET }
    expect((await ask('/api/jobs', headers, { method: 'POST' })).status).toBe(200)
    expect(seen).toEqual(['POST /api/jobs'])
  })

  it('are the shared folder, which asks for its own password', async () => {
    const { seen, ask } = await serve()
    expect((await ask('/dav/1/Tray/', {}, { method: 'PROPFIND' })).status).toBe(200)
    expect(seen).toEqual(['PROPFIND /dav/1/Tray/'])
  })
})

describe('a client that is slow, or never ends', () => {
  /** Sends this, and then nothing; gives how long the connection stayed. */
  async function hold(port: number, text: string, mostMs: number): Promise<number> {
    const began = Date.now()
    const socket = connect(port, '127.0.0.1')
    socket
      .on('error', () => {})
      .resume()
      .write(text)
    await Promise.race([new Promise((go) => socket.once('close', go)), sleep(mostMs)])
    socket.destroy()
    return Date.now() - began
  }

  it('is cut off in the middle of its headers', async () => {
    const { port } = await serve({ headersMs: 200, silenceMs: 60_000 })
    expect(await hold(port(), 'GET / HTTP/1.1\r\nHost: 127', 20_000)).toBeLessThan(15_000)
  })

  it('is cut off in the middle of its body', async () => {
    const { port } = await serve({ silenceMs: 200 })
    const head = `POST /api/jobs HTTP/1.1\r\nHost: 127.0.0.1:${port()}\r\nX-Lumbrin-Secret: ${SECRET}\r\nContent-Length: 100\r\n\r\nhalf`
    expect(await hold(port(), head, 20_000)).toBeLessThan(15_000)
  })

  it('keeps its connection where it has sent all, and waits for us', async () => {
    const server = createServer(
      (request, response) => void request.resume().on('end', () => response.write('listening')),
    )
    limitClients(server, { silenceMs: 100 })
    await new Promise<void>((go) => server.listen(0, '127.0.0.1', go))
    onTestFinished(() => {
      server.closeAllConnections()
      server.close()
    })
    const { port } = server.address() as AddressInfo
    expect(await hold(port, 'GET / HTTP/1.1\r\nHost: x\r\n\r\n', 1000)).toBeGreaterThanOrEqual(990)
  })
})

describe('a body', () => {
  const bodyOf = (pieces: AsyncIterable<Uint8Array>) =>
    new Request('http://127.0.0.1/', {
      method: 'POST',
      body: Readable.toWeb(Readable.from(pieces)),
      duplex: 'half',
      // What it announces is not believed.
      headers: { 'content-length': '1' },
    } as RequestInit)

  it('is counted as it comes, whatever it announces', async () => {
    let sent = 0
    async function* endless() {
      for (;;) {
        sent += 1 << 16
        yield new Uint8Array(1 << 16)
      }
    }
    await expect(textWithin(bodyOf(endless()), 1 << 20)).rejects.toThrow('too large')
    expect(sent).toBeLessThan(4 << 20)
  })

  it('is given up where it does not come', async () => {
    async function* stuck() {
      yield Buffer.from('{')
      await sleep(60_000, undefined, { ref: false })
    }
    await expect(textWithin(bodyOf(stuck()), 100, 50)).rejects.toThrow('did not come in time')
  })

  it('is given up where it trickles', async () => {
    async function* trickle() {
      for (;;) {
        yield Buffer.from(' ')
        await sleep(10)
      }
    }
    await expect(textWithin(bodyOf(trickle()), 1 << 20, 100)).rejects.toThrow('did not come in time')
  })

  it('is text to its last byte, also where a character is cut between pieces', async () => {
    const bytes = Buffer.from('the stage 😀')
    async function* pieces() {
      for (const byte of bytes) yield Uint8Array.of(byte)
    }
    expect(await textWithin(bodyOf(pieces()), bytes.length)).toBe('the stage 😀')
    expect(await textWithin(new Request('http://127.0.0.1/'), 10)).toBe('')
  })
})
