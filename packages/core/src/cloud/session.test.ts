import { createServer, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { describe, expect, it, onTestFinished } from 'vitest'
import { CloudClient } from './client.js'
import { CloudLine } from './session.js'

/** A client of a service that answers everything in this way. */
async function clientOf(answer: (response: ServerResponse) => void): Promise<CloudClient> {
  const server = createServer((_, response) => answer(response))
  await new Promise<void>((go) => server.listen(0, '127.0.0.1', go))
  onTestFinished(() => {
    server.closeAllConnections()
    server.close()
  })
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return new CloudClient(new CloudLine(address, async () => 'token'))
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
