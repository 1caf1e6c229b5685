import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import { connect } from '../database/connection.js'
import { migrate } from '../database/migrate.js'
import { purgeLeftOver } from '../services/purging.js'
import { settleLeftOver } from '../services/settling.js'
import { refusal, SECURITY_HEADERS } from './guard.js'

type Handler = (request: IncomingMessage, response: ServerResponse) => void

/** The application's own HTTP entry: loopback only, Host and Origin checked before anything else sees the request. */
async function serve(): Promise<void> {
  const { port, databaseUrl } = readConfig()
  const db = connect(databaseUrl)
  await migrate(db)
  // Left undone by a server that was killed; nobody waits for it.
  purgeLeftOver(db)
    .then(() => settleLeftOver(db))
    .catch((thrown: unknown) => process.stderr.write(`lumbrin: ${messageOf(thrown)}\n`))
    .finally(() => db.destroy())
  process.env.ASTRO_NODE_AUTOSTART = 'disabled'
  const { handler } = (await import(new URL('./server/entry.mjs', import.meta.url).href)) as { handler: Handler }
  const server = createServer((request, response) => {
    for (const [name, value] of Object.entries(SECURITY_HEADERS)) response.setHeader(name, value)
    const refused = refusal(request, port)
    if (refused)
      response.writeHead(refused.status, { 'content-type': 'text/plain; charset=utf-8' }).end(refused.message)
    else handler(request, response)
  })
  // Long uploads and downloads are normal here.
  server.requestTimeout = 0
  server.listen(port, '127.0.0.1', () => process.stderr.write(`lumbrin: open http://127.0.0.1:${port}/\n`))
  const stop = () => {
    server.close(() => process.exit(0))
    // Event streams stay open for ever; they are cut after a moment's grace.
    setTimeout(() => server.closeAllConnections(), 1000).unref()
  }
  process.once('SIGTERM', stop)
  process.once('SIGINT', stop)
}

serve().catch((thrown: unknown) => {
  process.stderr.write(`lumbrin: the server did not start: ${messageOf(thrown)}\n`)
  process.exit(1)
})
