import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import { openEntrance, say } from './entrance.js'
import { limitClients } from './limits.js'
import { warm } from './warming.js'

type Handler = (request: IncomingMessage, response: ServerResponse) => void

/** The application's own HTTP entry: loopback only, each request decided about before anything else sees it. */
async function serve(): Promise<void> {
  // What is written is for this user alone.
  process.umask(0o077)
  const { access, admit } = await openEntrance()
  process.env.ASTRO_NODE_AUTOSTART = 'disabled'
  const { handler } = (await import(new URL('./server/entry.mjs', import.meta.url).href)) as { handler: Handler }
  const server = createServer({ connectionsCheckingInterval: 5000 }, (request, response) => {
    void admit(request, response).then((allowed) => allowed && handler(request, response))
  })
  limitClients(server)
  server.listen(readConfig().port, '127.0.0.1', () => {
    say(`open ${access.address}`)
    // Where the server stops meanwhile, nobody waits for these pages.
    warm().catch(() => {})
  })
  const stop = () => {
    void access.close()
    server.close(() => process.exit(0))
    // Event streams stay open for ever; they are cut after a moment's grace.
    setTimeout(() => server.closeAllConnections(), 1000).unref()
  }
  process.once('SIGTERM', stop)
  process.once('SIGINT', stop)
}

serve().catch((thrown: unknown) => {
  say(`the server did not start: ${messageOf(thrown)}`)
  process.exit(1)
})
