import { createServer, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { describe, expect, it, onTestFinished } from 'vitest'
import { digest } from '../io/hash.js'
import { CloudClient } from './client.js'
import { CloudLine, type Tokens } from './session.js'

/** A client of a service that answers everything in this way; `asked` counts from 1, `token` is what it was shown. */
async function clientOf(
  answer: (response: ServerResponse, asked: number, token: string) => void,
  tokens: Tokens = async () => 'token',
): Promise<CloudClient> {
  let asked = 0
  const server = createServer((request, response) =>
    answer(response, ++asked, request.headers.authorization?.replace('Bearer ', '') ?? ''),
  )
  await new Promise<void>((go) => server.listen(0, '127.0.0.1', go))
  onTestFinished(() => {
    server.closeAllConnections()
    server.close()
  })
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return new CloudClient(new CloudLine(address, tokens))
}

const json = (text: string) => (response: ServerResponse) => void response.end(text)

describe('a cloud service that answers wrongly', () => {
  it.each([
    ['no JSON', json('<html>sign in to this network</html>')],
    ['other JSON', json('{"devices":[{"id":7}]}')],
    ['nothing', json('')],
    [
      'without end',
      (response: ServerResponse) => {
        const piece = Buffer.alloc(1 << 20, ' ')
        const more = () => {
          while (!response.destroyed && response.write(piece));
        }
        response.on('drain', more)
        more()
      },
    ],
  ])('%s: a clear error, and nothing is kept', async (_, answer) => {
    const client = await clientOf(answer)
    await expect(client.devices()).rejects.toMatchObject({ name: 'CloudError', code: 'damaged' })
  })

  it('does not go round for ever where a page points to itself', async () => {
    const client = await clientOf(json('{"photos":[],"next":"again"}'))
    let count = 0
    for await (const _ of client.photos()) count++
    expect(count).toBe(0)
  })
})

/** How a service says no. */
const refuse = (status: number, code: string, retryAfter?: string) => (response: ServerResponse) => {
  response.writeHead(status, retryAfter === undefined ? {} : { 'retry-after': retryAfter })
  response.end(JSON.stringify({ error: { code } }))
}

describe('a cloud service that does not answer at once', () => {
  const none = json('{"archives":[]}')

  it('is asked again after the time that it names, however often it is busy', async () => {
    let asked = 0
    const client = await clientOf((response, n) => {
      asked = n
      ;(n < 6 ? refuse(429, 'throttled', '0') : none)(response)
    })
    expect(await client.archives()).toEqual([])
    expect(asked).toBe(6)
  })

  it('is told as busy where that never ends', async () => {
    const client = await clientOf(refuse(429, 'throttled', '0'))
    await expect(client.archives()).rejects.toMatchObject({ code: 'busy' })
  })

  it('is told as away after a few tries, so that a read can wait for it', async () => {
    let asked = 0
    const client = await clientOf((response, n) => {
      asked = n
      response.destroy()
    })
    await expect(client.archives()).rejects.toMatchObject({ code: 'unreachable' })
    expect(asked).toBe(4)
  })

  it('is not taken for away where it answers in between, however badly', async () => {
    const client = await clientOf((response, n) => {
      if (n === 6) none(response)
      else if (n === 2) refuse(429, 'throttled', '0')(response)
      else response.destroy()
    })
    expect(await client.archives()).toEqual([])
  })

  it('gets a new token once where the old one ran out, which is no try', async () => {
    const shown: string[] = []
    const client = await clientOf(
      (response, _, token) => {
        shown.push(token)
        ;(token === 'old' ? refuse(401, 'signed-out') : none)(response)
      },
      async (stale) => (stale === undefined ? 'old' : 'new'),
    )
    expect(await client.archives()).toEqual([])
    expect(shown).toEqual(['old', 'new'])
  })

  it('is told as signed out where the new token is refused too', async () => {
    const client = await clientOf(refuse(401, 'signed-out'))
    await expect(client.archives()).rejects.toMatchObject({ code: 'signed-out' })
  })

  it.each([
    ['extra-protection', 403, 'extra-protection'],
    ['not-found', 404, 'gone'],
    ['what nobody knows', 418, 'gone'],
  ])('%s is told at once', async (name, status, code) => {
    let asked = 0
    const client = await clientOf((response, n) => {
      asked = n
      refuse(status, name)(response)
    })
    await expect(client.devices()).rejects.toMatchObject({ code })
    expect(asked).toBe(1)
  })
})

describe('a piece of a file', () => {
  const whole = Buffer.from('the strings of the third puppet')
  const chunk = { sha256: digest('sha256', whole), size: whole.byteLength }

  it('is asked for again until its bytes are what its name says', async () => {
    const client = await clientOf((response, n) => void response.end(n === 1 ? whole.subarray(1) : whole))
    expect(Buffer.from(await client.chunk(chunk))).toEqual(whole)
  })
})
