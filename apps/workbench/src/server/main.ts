import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import { connect, type Db } from '../database/connection.js'
import { damagedTables, WHAT_TO_DO } from '../database/damage.js'
import { migrate } from '../database/migrate.js'
import { sessionsIn } from '../database/sessions.js'
import { purgeLeftOver } from '../services/purging.js'
import { settleLeftOver } from '../services/settling.js'
import { Access } from './access.js'
import { passes } from './door.js'
import { SECURITY_HEADERS } from './guard.js'
import { limitClients } from './limits.js'

type Handler = (request: IncomingMessage, response: ServerResponse) => void

const say = (text: string) => void process.stderr.write(`lumbrin: ${text}\n`)

/** The application's own HTTP entry: loopback only, each request decided about before anything else sees it. */
async function serve(): Promise<void> {
  // What is written is for this user alone.
  process.umask(0o077)
  const { port, databaseUrl, dataFolder, readerSecret: secret } = readConfig()
  const db = connect(databaseUrl)
  await migrate(db)
  const access = new Access(port, dataFolder, sessionsIn(db))
  await access.open()
  // Left undone by a server that was killed; nobody waits for it.
  purgeLeftOver(db)
    .then(() => settleLeftOver(db))
    .then(() => tellDamage(db))
    .catch((thrown: unknown) => say(messageOf(thrown)))
  process.env.ASTRO_NODE_AUTOSTART = 'disabled'
  const { handler } = (await import(new URL('./server/entry.mjs', import.meta.url).href)) as { handler: Handler }
  const server = createServer({ connectionsCheckingInterval: 5000 }, (request, response) => {
    for (const [name, value] of Object.entries(SECURITY_HEADERS)) response.setHeader(name, value)
    passes(request, response, { access, port, secret }).then(
      (allowed) => allowed && handler(request, response),
      (thrown: unknown) => {
        say(messageOf(thrown))
        response.writeHead(503).end()
      },
    )
  })
  limitClients(server)
  server.listen(port, '127.0.0.1', () => say(`open ${access.address}`))
  const stop = () => {
    void access.close()
    server.close(() => process.exit(0))
    // Event streams stay open for ever; they are cut after a moment's grace.
    setTimeout(() => server.closeAllConnections(), 1000).unref()
  }
  process.once('SIGTERM', stop)
  process.once('SIGINT', stop)
}

async function tellDamage(db: Db): Promise<void> {
  const damaged = await damagedTables(db)
  if (damaged.length > 0)
    say(`these tables are damaged, and what jobs have in them cannot be shown: ${damaged.join(', ')}. ${WHAT_TO_DO}`)
}

serve().catch((thrown: unknown) => {
  say(`the server did not start: ${messageOf(thrown)}`)
  process.exit(1)
})
